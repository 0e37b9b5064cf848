import { useClips } from '../../api/queries'
import { Problem } from '../../shell/Shell'
import { useBackdrop } from '../../state/backdropStore'
import { Button } from '../../ui/controls'

/** Shown if the clip is no longer on the shelf: another can replace it. */
export function LostClip({ projectId }: { projectId: string }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { data: clips = [] } = useClips(projectId)
  return (
    <>
      <Problem message="The clip of this backdrop is no longer on the shelf." />
      <div className="flex flex-wrap justify-center gap-2">
        {clips.map((clip) => (
          <Button
            key={clip.id}
            onClick={() =>
              dispatch({ type: 'material/swap', sourceId: clip.id, facts: clip.facts })
            }
          >
            Take {clip.name}
          </Button>
        ))}
      </div>
    </>
  )
}
