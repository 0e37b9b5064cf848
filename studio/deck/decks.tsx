import { Bar, BarChart, CartesianGrid, Legend, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts'
import type { ReactNode } from 'react'
import type { ClipSource, Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipRecipes, containerOf, pictureSize, posterRecipes, recipeKey, type ClipRecipe } from '../../core/backdrop/recipe'
import { outcomes } from '../../core/behaviour/conditions'
import { keptHeight, keptWidth, regionHeightPx } from '../../core/fit/cover'
import { SCREENS, type ScreenName } from '../../core/fit/screens'
import { emitRegion } from '../../core/handoff/emitMarkup'
import { clipPath, posterPath } from '../../core/handoff/emitHandoff'
import type { HandoffMedia } from '../../core/handoff/HandoffMedia'
import { recipeSource, useWork } from '../state/workStore'
import { formatBytes, formatFps } from '../ui/format'

interface DeckProps {
  readonly document: BackdropDocument
  readonly source: ClipSource
}

function Table({ head, rows, label }: { head: readonly string[]; rows: readonly (readonly ReactNode[])[]; label: string }) {
  return (
    <table className="w-full text-left text-[0.82rem]" aria-label={label}>
      <thead className="text-xs text-muted">
        <tr>{head.map((cell) => <th key={cell} scope="col" className="border-b border-line-strong/40 py-1 pr-4 font-normal">{cell}</th>)}</tr>
      </thead>
      <tbody>
        {rows.map((row, index) => (
          <tr key={index}>{row.map((cell, column) => <td key={column} className="border-b border-line py-1 pr-4 tabular-nums">{cell}</td>)}</tr>
        ))}
      </tbody>
    </table>
  )
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
          ['Size shown', `${video.displayWidth} × ${video.displayHeight}${video.rotationDeg ? `, turned by ${video.rotationDeg}°` : ''}`, video.displayWidth >= 1920 ? 'Fills a wide screen without stretching.' : `Sharp up to ${video.displayWidth} px; wider screens stretch it.`],
          ['Duration', `${(facts.durationMs / 1000).toFixed(2)} s, ${video.frameCount} frames`, 'A hero loop is usually 4 to 12 s of it.'],
          ['Frame rate', `${formatFps(video.averageFps)} fps`, video.averageFps > 30.5 ? 'Halved by default: nobody sees the rest behind copy.' : 'Kept as it is.'],
          ['Codec', `${video.codecName} (${video.codec}) in ${facts.container.toUpperCase()}`, 'Decoded here and coded anew for the web.'],
          ['Sound', facts.audio ? 'present' : 'none', facts.audio ? 'Removed: backgrounds are silent, and sound makes loops stumble.' : 'Nothing to remove.'],
          ['Weight', `${formatBytes(facts.bytes)}, ${formatBytes(video.bytesPerSecond)} a second`, 'What is delivered is made to the budget under Weight.'],
        ]}
      />
    </div>
  )
}

/** What each screen keeps of the picture. */
export function FitDeck({ document, source }: DeckProps) {
  const picture = pictureSize(document, recipeSource(source))
  return (
    <div className={shell} tabIndex={0} role="region" aria-label="What each screen keeps">
      <Table
        label="What each screen keeps of the picture"
        head={['Screen', 'Region', 'Keeps of the width', 'Keeps of the height', 'Stretched']}
        rows={(Object.keys(SCREENS) as ScreenName[]).map((name) => {
          const screen = SCREENS[name]
          const region = { width: screen.width, height: regionHeightPx(document.fit.height, screen.height) }
          const scale = Math.max(region.width / picture.width, region.height / picture.height)
          return [
            `${screen.label}, ${screen.width} × ${screen.height}`, `${region.width} × ${region.height}`, `${Math.round(keptWidth(picture, region) * 100)} %`,
            `${Math.round(keptHeight(picture, region) * 100)} %`, scale > 1 ? `${scale.toFixed(2)} ×, soft` : 'no',
          ]
        })}
      />
    </div>
  )
}

/** What shows in every condition. */
export function BehaviourDeck({ document }: DeckProps) {
  return (
    <div className={`${shell} grid content-start grid-cols-2 gap-2 md:grid-cols-4 xl:grid-cols-7`} tabIndex={0} role="region" aria-label="What visitors get">
      {outcomes(document).map((outcome) => (
        <div key={outcome.condition} className="rounded border border-line bg-sheet px-3 py-2">
          <div className="text-xs text-muted">{outcome.label}</div>
          <div className="text-base font-semibold">{outcome.shows === 'clip' ? '▶ Clip' : '◼ Still'}</div>
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
          ['Measured', 'The heading’s words over the frame on stage now, under the scrim. Play or drag the cut and the figure follows. Not yet over all frames of the loop.'],
          ['Figure', 'WCAG 2.2 contrast ratio of the 5th percentile cell: nearly the worst place behind the heading, averaged over 4 px.'],
          ['Needed', '3 : 1 for large text (24 px, or 18.7 px bold), 4.5 : 1 for smaller text.'],
          ['Copy colour', <span key="c" className="inline-flex items-center gap-2"><i className="inline-block size-3.5 border border-ink/30" style={{ background: document.copy.color }} />{document.copy.color}</span>],
        ]}
      />
    </div>
  )
}

const STILL_FORMATS = { avif: 'AVIF', webp: 'WebP', jpeg: 'JPEG' } as const

function clipFormat(recipe: ClipRecipe): string {
  return `${containerOf(recipe) === 'webm' ? 'WebM' : 'MP4'}, ${recipe.family === 'vp9' ? 'VP9' : 'H.264'}`
}

/** Renditions with bytes against budget, as a table and as bars. */
export function WeightDeck({ document, source }: DeckProps) {
  const made = useWork((state) => state.made)
  const jobs = useWork((state) => state.jobs)
  const from = recipeSource(source)
  const clips = clipRecipes(document, from)
  const rows = clips.map(({ screenClass, recipe }) => {
    const rendition = made[recipeKey(recipe)]
    const job = jobs.find((each) => each.key === recipeKey(recipe))
    const budget = document.weight.budgets[screenClass]
    const state = rendition ? `${Math.round((rendition.bytes / budget) * 100)} % of ${formatBytes(budget)}` : job?.state === 'running' ? `pass ${job.pass + 1}, ${Math.round(job.done * 100)} %` : job ? job.message ?? 'waiting' : 'not made for this cut'
    return [SCREENS[screenClass].label, `${recipe.width} × ${recipe.height}`, clipFormat(recipe), rendition ? formatBytes(rendition.bytes) : '–', state, encodeTime(rendition)]
  })
  const posters = posterRecipes(document, from).map(({ screenClass, recipe }) => {
    const rendition = made[recipeKey(recipe)]
    const ceiling = document.still.ceilings[screenClass]
    return [SCREENS[screenClass].label, `${recipe.width} × ${recipe.height}`, `Still, ${STILL_FORMATS[recipe.format]}`, rendition ? formatBytes(rendition.bytes) : '–', rendition ? `${Math.round((rendition.bytes / ceiling) * 100)} % of ${formatBytes(ceiling)}` : 'not made for this cut', '']
  })
  const classes = [...new Set(clips.map((clip) => clip.screenClass))].reverse()
  const chart = classes.map((screenClass) => {
    const bytesOf = (family: 'vp9' | 'h264'): number => {
      const clip = clips.find((each) => each.screenClass === screenClass && each.recipe.family === family)
      return (clip ? (made[recipeKey(clip.recipe)]?.bytes ?? 0) : 0) / 1e6
    }
    return { screen: `${SCREENS[screenClass].label} (budget ${(document.weight.budgets[screenClass] / 1e6).toFixed(1)})`, vp9: bytesOf('vp9'), h264: bytesOf('h264') }
  })
  const most = Math.max(...classes.map((each) => document.weight.budgets[each])) / 1e6
  return (
    <div className="grid h-full grid-cols-1 lg:grid-cols-[3fr_2fr]">
      <div className={shell} tabIndex={0} role="region" aria-label="Renditions">
        <Table label="Renditions" head={['Screen', 'Size', 'Format', 'Bytes', 'Budget', 'Encoded in']} rows={[...rows, ...posters]} />
      </div>
      <figure className="hidden min-h-0 flex-col px-3 py-2 lg:flex">
        <figcaption className="text-xs text-muted">Bytes as written, MB; the line is the largest budget</figcaption>
        <div className="min-h-0 flex-1">
          <ResponsiveContainer width="100%" height="100%">
            <BarChart data={chart} margin={{ top: 6, right: 12, bottom: 0, left: -18 }} accessibilityLayer={false}>
              <CartesianGrid vertical={false} stroke="#d9d1c1" />
              <XAxis dataKey="screen" tick={{ fontSize: 10, fill: '#625a4d' }} interval={0} />
              <YAxis tick={{ fontSize: 10, fill: '#625a4d' }} domain={[0, Math.ceil(most * 1.05)]} />
              <Tooltip formatter={(value) => `${Number(value).toFixed(2)} MB`} isAnimationActive={false} />
              <Legend wrapperStyle={{ fontSize: 11 }} />
              <ReferenceLine y={most} stroke="#9c1c35" strokeDasharray="4 3" />
              <Bar dataKey="vp9" name="VP9" fill="#54406b" isAnimationActive={false} />
              <Bar dataKey="h264" name="H.264" fill="#c98a5b" isAnimationActive={false} />
            </BarChart>
          </ResponsiveContainer>
        </div>
      </figure>
    </div>
  )
}

function encodeTime(rendition: Rendition | undefined): string {
  return rendition?.facts.kind === 'clip' ? `${rendition.facts.encodeSeconds.toFixed(1)} s` : ''
}

/** The folder's files with their bytes, and the markup to paste. */
export function HandoffDeck({ document, source }: DeckProps) {
  const made = useWork((state) => state.made)
  const from = recipeSource(source)
  const media = deliveredMedia(document, source, made)
  const files = [
    ...clipRecipes(document, from).map(({ screenClass, recipe }) => ({ path: clipPath({ screenClass, container: containerOf(recipe), ...recipe }), bytes: made[recipeKey(recipe)]?.bytes })),
    ...posterRecipes(document, from).map(({ recipe }) => ({ path: posterPath(recipe), bytes: made[recipeKey(recipe)]?.bytes })),
  ]
  const texts = [['index.html', 'demonstration page with your copy'], ['fragment.html', 'the markup to paste'], ['backdrop.css', 'the style'], ['backdrop.js', 'the script'], ['page.css', 'dresses the demonstration page'], ['manifest.json', 'what every file is'], ['README.txt', 'how to use it']]
  return (
    <div className="grid h-full grid-cols-1 md:grid-cols-2">
      <div className={shell} tabIndex={0} role="region" aria-label="Files of the folder">
        <Table label="Files of the folder" head={['File', 'Bytes']} rows={[...files.map(({ path, bytes }) => [<code key="p" className="font-mono text-xs">{path}</code>, bytes === undefined ? 'not made yet' : formatBytes(bytes)]), ...texts.map(([path, what]) => [<code key="p" className="font-mono text-xs">{path}</code>, what])]} />
      </div>
      <pre className={`${shell} bg-sheet font-mono text-[0.72rem] leading-relaxed`} tabIndex={0} role="region" aria-label="Markup to paste">{emitRegion(document, media)}</pre>
    </div>
  )
}

/** The media of the folder as the markup names them; files that are not made yet stand with what is known of them. */
export function deliveredMedia(document: BackdropDocument, source: ClipSource, made: Readonly<Record<string, Rendition>>): HandoffMedia {
  const from = recipeSource(source)
  return {
    clips: clipRecipes(document, from).map(({ screenClass, recipe }) => {
      const rendition = made[recipeKey(recipe)]
      const codec = rendition?.facts.kind === 'clip' ? rendition.facts.codec : 'not made yet'
      const container = containerOf(recipe)
      return { screenClass, family: recipe.family, container, url: clipPath({ screenClass, container, ...recipe }), codec, width: recipe.width, height: recipe.height, bytes: rendition?.bytes ?? 0 }
    }),
    placeholder: null,
    posters: posterRecipes(document, from).map(({ screenClass, recipe }) => ({ screenClass, format: recipe.format, url: posterPath(recipe), width: recipe.width, height: recipe.height, bytes: made[recipeKey(recipe)]?.bytes ?? 0 })),
  }
}
