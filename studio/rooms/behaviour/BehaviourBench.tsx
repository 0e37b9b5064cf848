import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { isMoving, rendersClips } from '../../../core/backdrop/delivered'
import { useBackdrop } from '../../state/backdropStore'
import { Choice, Group, Note, Slider, Toggle } from '../../ui/controls'
import type { BenchProps } from '../Room'

/** What visitors get where the clip cannot or should not play. */
export function BehaviourBench({ document }: BenchProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { behaviour, base } = document
  const clips = rendersClips(document)
  const set = (
    change: Partial<BackdropDocument['behaviour']>,
    gesture: string | null = null,
  ): void => dispatch({ type: 'behaviour/set', behaviour: change }, gesture)
  const options = [
    { value: 'play' as const, label: 'Play' },
    {
      value: 'poster' as const,
      label: clips ? 'Poster' : base.kind === 'slideshow' ? 'First slide' : 'Stand still',
    },
  ]
  if (!isMoving(document))
    return (
      <Group title="Where it plays">
        <p className="text-muted">
          Nothing of this backdrop moves, so it is the same for all visitors and needs no script and
          no pause control. Motion is set under Timing.
        </p>
      </Group>
    )
  return (
    <>
      <Group title="Where it plays">
        <Choice
          label={`Phones (windows up to ${document.weight.breakpoints.phone} px)`}
          value={behaviour.phone}
          options={options}
          onChange={(phone) => set({ phone })}
        />
        <Choice
          label="Visitors who ask for reduced motion"
          value={behaviour.reducedMotion}
          options={options}
          onChange={(reducedMotion) => set({ reducedMotion })}
        />
        <Choice
          label="Visitors who save data"
          value={behaviour.dataSaver}
          options={options}
          onChange={(dataSaver) => set({ dataSaver })}
        />
        {behaviour.reducedMotion === 'play' && (
          <Note tone="look">
            Some visitors feel sick from moving pictures. {clips ? 'The poster' : 'Standing still'}{' '}
            is the safe choice.
          </Note>
        )}
      </Group>
      <Group title="How it plays">
        <Toggle
          label="Pause control"
          note="Motion that starts by itself and lasts over 5 s must be pausable (WCAG 2.2.2)."
          enabled={behaviour.pauseControl}
          onChange={(pauseControl) => set({ pauseControl })}
        />
        {!behaviour.pauseControl && (
          <Note tone="fix">
            Visitors cannot stop the motion. Keep the control unless the page offers its own.
          </Note>
        )}
        {clips && <ClipPlayback document={document} />}
      </Group>
    </>
  )
}

/** How a clip plays on the page. */
function ClipPlayback({ document }: Pick<BenchProps, 'document'>) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { behaviour } = document
  const set = (
    change: Partial<BackdropDocument['behaviour']>,
    gesture: string | null = null,
  ): void => dispatch({ type: 'behaviour/set', behaviour: change }, gesture)
  return (
    <>
      <Slider
        label="Playback rate on the page"
        value={behaviour.playbackRate}
        low={0.25}
        high={2}
        step={0.05}
        shown={`${behaviour.playbackRate} ×`}
        onChange={(playbackRate, gesture) =>
          set({ playbackRate: Math.round(playbackRate * 100) / 100 }, gesture)
        }
      />
      <p className="text-xs text-muted">
        Needs no new files, but has no effect without JavaScript. The speed under Timing is built
        into the files.
      </p>
      <Toggle
        label="Autoplay in the markup"
        note={
          document.fit.place === 'below'
            ? 'Not further down the page: the clip would be loaded before anyone sees it.'
            : 'Plays without JavaScript, but the clip then competes with the poster for bandwidth.'
        }
        enabled={behaviour.autoplayInMarkup}
        disabled={document.fit.place === 'below'}
        onChange={(autoplayInMarkup) => set({ autoplayInMarkup })}
      />
    </>
  )
}
