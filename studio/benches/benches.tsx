import { Copy, Download, ExternalLink } from 'lucide-react'
import { useState } from 'react'
import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { recipeKey } from '../../core/backdrop/recipe'
import { emitRegion } from '../../core/handoff/emitMarkup'
import { deliveredMedia } from '../deck/deliveredMedia'
import { useBackdrop } from '../state/backdropStore'
import { useNotices } from '../state/noticeStore'
import { useStage } from '../state/stageStore'
import { finalRecipes, useWork } from '../state/workStore'
import { ButtonTarget } from '../stage/Stage'
import {
  Button,
  Choice,
  ColorField,
  Group,
  Note,
  NumberField,
  Slider,
  Toggle,
} from '../ui/controls'
import { formatBytes } from '../ui/format'
import { MakeFiles } from './MakeFiles'

export interface BenchProps {
  readonly document: BackdropDocument
  readonly source: ClipSource
  readonly backdropId: string
  readonly projectId: string
}

/** Scrim and copy colours, with the contrast they give now. */
export function LegibilityBench({ document }: BenchProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const contrast = useStage((state) => state.contrast)
  const needed = useStage((state) => state.needed)
  const { scrim, copy } = document
  const percent = (value: number): string => `${Math.round(value * 100)} %`
  return (
    <>
      <Group title="Heading on the current frame" aside={`needs ${needed} : 1`}>
        <p className="flex items-baseline gap-2" role="status">
          <span className="text-3xl figure-face">
            {contrast === null ? '–' : contrast.toFixed(2)}
          </span>
          <span className="text-muted">: 1</span>
          {contrast !== null && (
            <span className={contrast >= needed ? 'text-settled' : 'font-medium text-fix'}>
              {contrast >= needed
                ? 'readable here'
                : 'too low: increase the scrim strength or change the colour'}
            </span>
          )}
        </p>
        <p className="text-xs text-muted">
          Measured on the current frame only, not on the whole loop.
        </p>
      </Group>
      <Group title="Scrim" aside="between footage and copy">
        <Choice
          label="Shape"
          hideLabel
          value={scrim.kind}
          onChange={(kind) => dispatch({ type: 'scrim/set', scrim: { kind } })}
          options={[
            { value: 'flat', label: 'Even' },
            { value: 'gradient', label: 'Gradient' },
          ]}
        />
        <ColorField
          label={scrim.kind === 'flat' ? 'Colour' : 'Colour at its start'}
          value={scrim.color}
          onChange={(color, gesture) => dispatch({ type: 'scrim/set', scrim: { color } }, gesture)}
        />
        <Slider
          label="Strength"
          value={scrim.strength}
          low={0}
          high={1}
          step={0.01}
          shown={percent(scrim.strength)}
          onChange={(strength, gesture) =>
            dispatch({ type: 'scrim/set', scrim: { strength } }, gesture)
          }
        />
        {scrim.kind === 'gradient' && (
          <>
            <ColorField
              label="Colour at its end"
              value={scrim.toColor}
              onChange={(toColor, gesture) =>
                dispatch({ type: 'scrim/set', scrim: { toColor } }, gesture)
              }
            />
            <Slider
              label="Strength at its end"
              value={scrim.toStrength}
              low={0}
              high={1}
              step={0.01}
              shown={percent(scrim.toStrength)}
              onChange={(toStrength, gesture) =>
                dispatch({ type: 'scrim/set', scrim: { toStrength } }, gesture)
              }
            />
            <Slider
              label="Angle (0 runs up, 90 to the right)"
              value={scrim.angleDeg}
              low={0}
              high={360}
              step={1}
              shown={`${scrim.angleDeg}°`}
              onChange={(angleDeg, gesture) =>
                dispatch({ type: 'scrim/set', scrim: { angleDeg } }, gesture)
              }
            />
          </>
        )}
      </Group>
      <Group title="Copy" aside="edit it on the stage">
        <ColorField
          label="Copy colour"
          value={copy.color}
          onChange={(value, gesture) =>
            dispatch({ type: 'copy/write', field: 'color', value }, gesture)
          }
        />
        <ColorField
          label="Button colour"
          value={copy.buttonColor}
          onChange={(value, gesture) =>
            dispatch({ type: 'copy/write', field: 'buttonColor', value }, gesture)
          }
        />
        <ButtonTarget document={document} />
        <div className="flex gap-2">
          <Button
            disabled={copy.links.length >= 6}
            onClick={() => dispatch({ type: 'copy/links', links: [...copy.links, 'New link'] })}
          >
            Add a header link
          </Button>
          <Button
            disabled={copy.links.length === 0}
            onClick={() => dispatch({ type: 'copy/links', links: copy.links.slice(0, -1) })}
          >
            Remove the last
          </Button>
        </div>
      </Group>
    </>
  )
}

/** Region height and focal point. */
export function FitBench({ document }: BenchProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { height, focal, scope } = document.fit
  return (
    <>
      <Group
        title="Height of the region"
        aside={scope === 'page' ? 'behind the whole page' : 'a region of the page'}
      >
        <Choice
          label="Unit"
          hideLabel
          value={height.unit}
          onChange={(unit) =>
            dispatch({
              type: 'fit/height',
              height: unit === 'svh' ? { unit, value: 100 } : { unit, value: 640 },
            })
          }
          options={[
            { value: 'svh', label: 'Of the window', note: 'svh' },
            { value: 'px', label: 'Fixed', note: 'px' },
          ]}
        />
        <NumberField
          label={height.unit === 'svh' ? 'Percent of the window’s height' : 'Pixels'}
          value={height.value}
          low={10}
          high={height.unit === 'svh' ? 200 : 4000}
          suffix={height.unit}
          onChange={(value) => dispatch({ type: 'fit/height', height: { ...height, value } })}
        />
        <p className="text-xs text-muted">
          The region grows where the copy needs more room, so nothing is cut off.
        </p>
      </Group>
      <Group title="Focal point" aside="drag it on the stage">
        <div className="flex gap-2">
          <NumberField
            label="Across"
            value={focal.x * 100}
            low={0}
            high={100}
            suffix="%"
            onChange={(x) => dispatch({ type: 'fit/focal', focal: { ...focal, x: x / 100 } })}
          />
          <NumberField
            label="Down"
            value={focal.y * 100}
            low={0}
            high={100}
            suffix="%"
            onChange={(y) => dispatch({ type: 'fit/focal', focal: { ...focal, y: y / 100 } })}
          />
        </div>
        <p className="text-xs text-muted">
          The picture fills the region without distortion. Put the point on what must stay visible;
          check the phone, where most is cropped.
        </p>
        <Button onClick={() => dispatch({ type: 'fit/focal', focal: { x: 0.5, y: 0.5 } })}>
          Reset to centre
        </Button>
      </Group>
    </>
  )
}

/** What visitors get where the clip cannot or should not play. */
export function BehaviourBench({ document }: BenchProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { behaviour } = document
  const set = (
    change: Partial<BackdropDocument['behaviour']>,
    gesture: string | null = null,
  ): void => dispatch({ type: 'behaviour/set', behaviour: change }, gesture)
  const options = [
    { value: 'play' as const, label: 'Play' },
    { value: 'poster' as const, label: 'Poster' },
  ]
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
            Some visitors feel sick from moving pictures. The poster is the safe choice.
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
          note="Plays without JavaScript, but the clip then competes with the poster for bandwidth."
          enabled={behaviour.autoplayInMarkup}
          onChange={(autoplayInMarkup) => set({ autoplayInMarkup })}
        />
      </Group>
    </>
  )
}

/** Download, open, paste. */
export function HandoffBench({ document, source, backdropId }: BenchProps) {
  const made = useWork((state) => state.made)
  const save = useBackdrop((state) => state.save)
  const flush = useBackdrop((state) => state.flush)
  const tell = useNotices((state) => state.tell)
  const [copied, setCopied] = useState(false)
  const recipes = finalRecipes(document, source)
  const ready = recipes.every((recipe) => made[recipeKey(recipe)]) && save !== 'conflict'
  const bytes = recipes.reduce((sum, recipe) => sum + (made[recipeKey(recipe)]?.bytes ?? 0), 0)
  const go = (url: string, tab: boolean) => async (): Promise<void> => {
    // The server writes the folder from what is saved: save first.
    const opened = tab ? window.open('about:blank', '_blank') : null
    await flush()
    const { save: now, problem } = useBackdrop.getState()
    if (now !== 'saved') {
      opened?.close()
      tell(
        `The latest changes are not saved yet, so the folder would be an older one. ${problem ?? 'Try again in a moment.'}`,
      )
      return
    }
    if (opened) opened.location.href = url
    else location.href = url
  }
  const paste = async (): Promise<void> => {
    await navigator.clipboard.writeText(
      emitRegion(document, deliveredMedia(document, source, made)),
    )
    setCopied(true)
    setTimeout(() => setCopied(false), 2500)
  }
  return (
    <>
      {!ready && <MakeFiles document={document} source={source} />}
      <Group
        title="Folder"
        aside={
          ready
            ? `${recipes.length + 7} files, ${formatBytes(bytes)} of media`
            : 'render the files first'
        }
      >
        <Button
          tone={ready ? 'accent' : 'plain'}
          disabled={!ready}
          onClick={() => void go(`/handoff/${backdropId}/zip`, false)()}
        >
          <Download className="size-4" aria-hidden />
          Download as zip
        </Button>
        <Button
          disabled={!ready}
          onClick={() => void go(`/handoff/${backdropId}/site/index.html`, true)()}
        >
          <ExternalLink className="size-4" aria-hidden />
          Open in a new tab
        </Button>
        <Button onClick={() => void paste()}>
          <Copy className="size-4" aria-hidden />
          {copied ? 'Copied' : 'Copy markup'}
        </Button>
        <span role="status" className="sr-only">
          {copied ? 'Markup copied.' : ''}
        </span>
      </Group>
      <Group title="How it behaves on a site">
        <ul className="list-disc pl-4 text-[0.82rem]">
          <li>The poster is shown first; the clip loads after it.</li>
          <li>No request leaves the site; no inline script or style.</li>
          <li>
            Custom properties on <code className="font-mono text-xs">.tln-region</code> tune height,
            focal point and scrim.
          </li>
        </ul>
      </Group>
    </>
  )
}
