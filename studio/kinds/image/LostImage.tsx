import { useImages } from '../../api/queries'
import { Problem } from '../../shell/Shell'
import { useBackdrop } from '../../state/backdropStore'
import { Button } from '../../ui/controls'

/** Shown if the image is no longer on the shelf: another can replace it. */
export function LostImage({ projectId }: { projectId: string }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { data: images = [] } = useImages(projectId)
  return (
    <>
      <Problem message="The image of this backdrop is no longer on the shelf." />
      <div className="flex flex-wrap justify-center gap-2">
        {images.map((image) => (
          <Button
            key={image.id}
            onClick={() => dispatch({ type: 'image/swap', sourceId: image.id })}
          >
            Take {image.name}
          </Button>
        ))}
      </div>
    </>
  )
}
