import { useNavigate } from 'react-router'
import type { SlidesOrder } from '../../core/api/wire'
import { SLIDE_COUNT } from '../../core/kinds/slideshow/Slideshow'
import { api } from '../api/client'
import { useProject } from '../api/queries'
import { SpotDialog } from './SpotDialog'

/** Makes a slideshow of images or of a set in a spot. */
export function SlideshowDialog({
  projectId,
  slides,
  firstName,
  onClose,
}: {
  projectId: string
  slides: SlidesOrder
  firstName: string
  onClose: () => void
}) {
  const { data: project } = useProject(projectId)
  const navigate = useNavigate()
  if (!project) return null
  const sourceIds = slides.sourceIds.slice(0, SLIDE_COUNT.max)
  return (
    <SpotDialog
      project={project}
      title={`Make a slideshow of ${sourceIds.length} images`}
      firstName={firstName}
      onClose={onClose}
      onMake={async (spot, name) => {
        const order = { name, sourceId: null, slides: { sourceIds, setId: slides.setId } }
        const { id } = await api.createBackdrop(spot, order)
        void navigate(`/backdrops/${id}`)
      }}
      note={
        slides.sourceIds.length > SLIDE_COUNT.max && (
          <p className="text-muted">
            The first {SLIDE_COUNT.max} are taken: more slides than that nobody sees.
          </p>
        )
      }
    />
  )
}
