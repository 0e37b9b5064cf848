import { useState } from 'react'
import { SLIDE_COUNT } from '../../../core/kinds/slideshow/Slideshow'
import { createSlideshow } from '../../../core/kinds/slideshow/Slideshow'
import { Problem } from '../../shell/Shell'
import { useBackdrop } from '../../state/backdropStore'
import { Button } from '../../ui/controls'
import { useImages } from '../../api/queries'
import { NO_SLIDES, SlidePicker } from './SlidePicker'

/** Shown if an image is no longer on the shelf: the slides that are left, or others, take over. */
export function LostSlides({ projectId }: { projectId: string }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const document = useBackdrop((state) => state.document)
  const { data: images = [] } = useImages(projectId)
  const [picked, setPicked] = useState(NO_SLIDES)
  if (document?.base.kind !== 'slideshow') return null
  const { base } = document
  const left = base.slides.filter(({ sourceId }) => images.some(({ id }) => id === sourceId))
  return (
    <div className="mx-auto max-w-2xl p-6">
      <Problem
        message={`${base.slides.length - left.length} of ${base.slides.length} images of this slideshow are no longer on the shelf.`}
      />
      <div className="mt-4 flex flex-col gap-3">
        {left.length >= SLIDE_COUNT.min && (
          <Button
            tone="accent"
            onClick={() => dispatch({ type: 'base/set', base: { ...base, slides: left } })}
          >
            Go on with the other {left.length}
          </Button>
        )}
        <SlidePicker projectId={projectId} picked={picked} onPick={setPicked} />
        <Button
          disabled={picked.sourceIds.length < SLIDE_COUNT.min}
          onClick={() =>
            dispatch({
              type: 'base/set',
              base: {
                ...base,
                setId: picked.setId,
                slides: createSlideshow(picked.sourceIds).slides,
              },
            })
          }
        >
          Use these images instead
        </Button>
      </div>
    </div>
  )
}
