import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import {
  clipRecipes,
  containerOf,
  pictureSize,
  posterRecipes,
  recipeKey,
} from '../../core/backdrop/recipe'
import { outcomes } from '../../core/behaviour/conditions'
import { keptHeight, keptWidth, regionHeightPx } from '../../core/fit/cover'
import { SCREENS, type ScreenName } from '../../core/fit/screens'
import { emitRegion } from '../../core/handoff/emitMarkup'
import { clipPath, posterPath } from '../../core/handoff/emitHandoff'
import { deliveredMedia } from './deliveredMedia'
import { Table } from './Table'
import { recipeSource, useWork } from '../state/workStore'
import { formatBytes, formatFps } from '../ui/format'
import { sourceFps } from '../../core/media/probe'

interface DeckProps {
  readonly document: BackdropDocument
  readonly source: ClipSource
}

const shell = 'h-full overflow-auto px-4 py-2.5'

/** What the clip is, fact by fact. */
export function MaterialDeck({ source }: DeckProps) {
  const { facts } = source
  const { video } = facts
  return (
    <div className={shell} tabIndex={0} role="region" aria-label="Facts of the clip">
      <Table
        label="Facts of the clip"
        head={['Fact', 'Value', 'What it means']}
        rows={[
          [
            'Size shown',
            `${video.displayWidth} × ${video.displayHeight}${video.rotationDeg ? `, turned by ${video.rotationDeg}°` : ''}`,
            video.displayWidth >= 1920
              ? 'Fills a wide screen without enlarging.'
              : `Sharp up to ${video.displayWidth} px; wider screens enlarge it.`,
          ],
          [
            'Duration',
            `${(facts.durationMs / 1000).toFixed(2)} s, ${video.frameCount} frames`,
            'A hero loop is usually 4 to 12 s of it.',
          ],
          [
            'Frame rate',
            `${formatFps(sourceFps(video))} fps`,
            video.averageFps > 30.5
              ? 'Halved by default: the difference is hardly visible behind copy.'
              : 'Kept.',
          ],
          [
            'Codec',
            `${video.codecName} (${video.codec}) in ${facts.container.toUpperCase()}`,
            'Decoded in this browser and encoded again for the web.',
          ],
          [
            'Sound',
            facts.audio ? 'present' : 'none',
            facts.audio
              ? 'Removed: backgrounds are silent, and sound interrupts loops.'
              : 'Nothing to remove.',
          ],
          [
            'Weight',
            `${formatBytes(facts.bytes)}, ${formatBytes(video.bytesPerSecond)} a second`,
            'Delivered files keep the budget under Weight.',
          ],
        ]}
      />
    </div>
  )
}

/** Visible part of the picture per screen. */
export function FitDeck({ document, source }: DeckProps) {
  const picture = pictureSize(document, recipeSource(source))
  return (
    <div className={shell} tabIndex={0} role="region" aria-label="What each screen keeps">
      <Table
        label="Visible part of the picture per screen"
        head={['Screen', 'Region', 'Visible width', 'Visible height', 'Stretched']}
        rows={(Object.keys(SCREENS) as ScreenName[]).map((name) => {
          const screen = SCREENS[name]
          const region = {
            width: screen.width,
            height: regionHeightPx(document.fit.height, screen.height),
          }
          const scale = Math.max(region.width / picture.width, region.height / picture.height)
          return [
            `${screen.label}, ${screen.width} × ${screen.height}`,
            `${region.width} × ${region.height}`,
            `${Math.round(keptWidth(picture, region) * 100)} %`,
            `${Math.round(keptHeight(picture, region) * 100)} %`,
            scale > 1 ? `${scale.toFixed(2)} ×, soft` : 'no',
          ]
        })}
      />
    </div>
  )
}

/** What shows in every condition. */
export function BehaviourDeck({ document }: DeckProps) {
  return (
    <div
      className={`${shell} grid grid-cols-2 content-start gap-2 md:grid-cols-4 xl:grid-cols-7`}
      tabIndex={0}
      role="region"
      aria-label="What visitors get"
    >
      {outcomes(document).map((outcome) => (
        <div key={outcome.condition} className="rounded border border-line bg-sheet px-3 py-2">
          <div className="text-xs text-muted">{outcome.label}</div>
          <div className="text-base font-semibold">
            {outcome.shows === 'clip' ? '▶ Clip' : '◼ Poster'}
          </div>
          <div className="text-xs">{outcome.because}</div>
        </div>
      ))}
    </div>
  )
}

/** Copy colour over the frame on stage. */
export function LegibilityDeck({ document }: DeckProps) {
  return (
    <div className={shell} tabIndex={0} role="region" aria-label="How contrast is measured">
      <Table
        label="How contrast is measured"
        head={['What', 'How']}
        rows={[
          [
            'Measured',
            'The heading’s words over the frame on stage now, under the scrim. It follows while the clip plays. Other frames of the loop are not included.',
          ],
          [
            'Figure',
            'WCAG 2.2 contrast ratio of the 5th percentile cell: nearly the worst place behind the heading, averaged over 4 px.',
          ],
          ['Needed', '3 : 1 for large text (24 px, or 18.7 px bold), 4.5 : 1 for smaller text.'],
          [
            'Copy colour',
            <span key="c" className="inline-flex items-center gap-2">
              <i
                className="inline-block size-3.5 border border-ink/30"
                style={{ background: document.copy.color }}
              />
              {document.copy.color}
            </span>,
          ],
        ]}
      />
    </div>
  )
}

/** The folder's files with their bytes, and the markup to paste. */
export function HandoffDeck({ document, source }: DeckProps) {
  const made = useWork((state) => state.made)
  const from = recipeSource(source)
  const media = deliveredMedia(document, source, made)
  const files = [
    ...clipRecipes(document, from).map(({ screenClass, recipe }) => ({
      path: clipPath({ screenClass, container: containerOf(recipe), ...recipe }),
      bytes: made[recipeKey(recipe)]?.bytes,
    })),
    ...posterRecipes(document, from).map(({ screenClass, recipe }) => ({
      path: posterPath({ screenClass, ...recipe }),
      bytes: made[recipeKey(recipe)]?.bytes,
    })),
  ]
  const texts = [
    ['index.html', 'demonstration page with your copy'],
    ['fragment.html', 'the markup to paste'],
    ['backdrop.css', 'the style'],
    ['backdrop.js', 'the script'],
    ['page.css', 'style of the demonstration page only'],
    ['manifest.json', 'description of every file'],
    ['README.txt', 'how to use it'],
  ]
  return (
    <div className="grid h-full grid-cols-1 md:grid-cols-2">
      <div className={shell} tabIndex={0} role="region" aria-label="Files of the folder">
        <Table
          label="Files of the folder"
          head={['File', 'Bytes']}
          rows={[
            ...files.map(({ path, bytes }) => [
              <code key="p" className="font-mono text-xs">
                {path}
              </code>,
              bytes === undefined ? 'not rendered yet' : formatBytes(bytes),
            ]),
            ...texts.map(([path, what]) => [
              <code key="p" className="font-mono text-xs">
                {path}
              </code>,
              what,
            ]),
          ]}
        />
      </div>
      <pre
        className={`${shell} bg-sheet font-mono text-[0.72rem] leading-relaxed`}
        tabIndex={0}
        role="region"
        aria-label="Markup to paste"
      >
        {emitRegion(document, media)}
      </pre>
    </div>
  )
}
