import { Search } from 'lucide-react'
import { useEffect, useRef, type ReactNode } from 'react'
import type { ClipQuality, Rendition } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import {
  clipRecipes,
  containerOf,
  posterRecipes,
  recipeKey,
  type ClipRecipe,
  type PosterRecipe,
  type Recipe,
} from '../../../core/backdrop/recipe'
import { SCREENS, type ScreenClass } from '../../../core/fit/screens'
import { rendersClips } from '../../../core/backdrop/delivered'
import type { Forecast } from '../../../core/weight/forecast'
import { showsNoLoss } from '../../../core/weight/passes'
import type { LoadedSources } from '../../state/loadedSources'
import { forecastOf } from '../../state/useProbing'
import { useWork, type Job } from '../../state/workStore'
import { FORMAT_NAMES, formatBytes, PICTURE_NAMES } from '../../ui/format'
import { TradeChart } from './TradeChart'
import { useWeightView } from './weightView'

/**
 * Every file with its bytes against its budget and its quality; beside it the chart of one screen.
 */
export function FilesView({ document, sources }: FilesProps) {
  return (
    <div className="h-full max-lg:flex max-lg:flex-col max-lg:overflow-auto lg:grid lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
      <FilesTable document={document} sources={sources} />
      <TradeChart document={document} sources={sources} />
    </div>
  )
}

interface FilesProps {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
}

/** Every file with its bytes against its budget and its quality. */
export function FilesTable({ document, sources }: FilesProps) {
  const { screenClass } = useWeightView()
  const scroller = useRef<HTMLDivElement>(null)
  // Whoever chooses a screen on the bench wants to see its files.
  useEffect(() => showMarked(scroller.current), [screenClass])
  const from = sources.known
  // Pictures are encoded in a moment, and looked at as they are.
  const heads = rendersClips(document) ? HEADS : PICTURE_HEADS
  return (
    <div
      ref={scroller}
      className="relative overflow-auto px-4 pb-1.5 max-lg:shrink-0 lg:h-full"
      tabIndex={0}
      role="region"
      aria-label="Renditions"
    >
      <table className="w-full text-left text-[0.8rem] whitespace-nowrap" aria-label="Renditions">
        <thead className="text-xs text-muted">
          <tr>
            {heads.map((cell) => (
              <th
                key={cell}
                scope="col"
                className="sticky top-0 border-b border-line-strong/40 bg-paper-deep py-1 pr-3 font-normal"
              >
                {cell}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {clipRecipes(document, from).map(({ screenClass: each, recipe }) => (
            <ClipRow key={recipeKey(recipe)} screenClass={each} recipe={recipe} />
          ))}
          {posterRecipes(document, from).map(({ screenClass: each, density, slide, recipe }) => (
            <PosterRow
              key={recipeKey(recipe)}
              screenClass={each}
              density={density}
              slide={slide ?? null}
              heads={heads}
              recipe={recipe}
            />
          ))}
        </tbody>
      </table>
    </div>
  )
}

const HEADS = [
  'Screen',
  'Size',
  'Format',
  'Bytes',
  'of its budget',
  'SSIM',
  'worst',
  'Encoded',
  'Look',
] as const

/** The job of a file, wherever it is rendered. */
function useJob(recipe: Recipe): Job | undefined {
  const key = recipeKey(recipe)
  return useWork(({ jobs, apart }) => [...jobs, ...apart].find((job) => job.key === key))
}

function stateOf(job: Job | undefined): string {
  if (!job) return 'not rendered for this cut'
  const share = `${Math.round(job.done * 100)} %`
  if (job.state === 'running') return job.apart ? share : `pass ${job.pass + 1}, ${share}`
  return job.state === 'failed' ? 'failed, see the controls' : 'waiting'
}

function ClipRow({ screenClass: each, recipe }: { screenClass: ScreenClass; recipe: ClipRecipe }) {
  const made = useWork((state) => state.made)
  const job = useJob(recipe)
  const { screenClass: chosen, set } = useWeightView()
  const rendition = made[recipeKey(recipe)]
  const quality = rendition?.facts.kind === 'clip' ? rendition.facts.quality : null
  const expected = rendition ? null : forecastOf(recipe, made)
  return (
    <Row marked={each === chosen}>
      <button
        type="button"
        className="text-left underline-offset-2 hover:underline"
        onClick={() => set({ screenClass: each })}
      >
        {SCREENS[each].label}
      </button>
      {`${recipe.width} × ${recipe.height}`}
      {`${FORMAT_NAMES[recipe.family]}, ${containerOf(recipe) === 'webm' ? 'WebM' : 'MP4'}`}
      {rendition ? (
        formatBytes(rendition.bytes)
      ) : expected ? (
        <Expected>{formatBytes(expected.bytes)}</Expected>
      ) : (
        '–'
      )}
      {rendition ? (
        <Filled recipe={recipe} bytes={rendition.bytes} quality={quality} />
      ) : job || !expected ? (
        stateOf(job)
      ) : (
        <Unmade recipe={recipe} expected={expected} />
      )}
      {quality ? (
        quality.ssim.toFixed(3)
      ) : expected ? (
        <Expected>{expected.ssim.toFixed(3)}</Expected>
      ) : (
        ''
      )}
      {quality ? quality.worstSsim.toFixed(3) : ''}
      <Encoding rendition={rendition} />
      {rendition && (
        <button
          type="button"
          className="inline-flex items-center gap-1 rounded border border-line-strong/50 px-1.5 hover:bg-white"
          aria-label={`Look closer at ${SCREENS[each].label}, ${FORMAT_NAMES[recipe.family]}`}
          onClick={() => set({ closer: { screenClass: each, family: recipe.family } })}
        >
          <Search className="size-3.5" aria-hidden />
          <span className="max-2xl:hidden">Look closer</span>
        </button>
      )}
    </Row>
  )
}

/** Of pictures alone: they are encoded as a whole, and looked at as they are. */
const PICTURE_HEADS = HEADS.filter((head) => head !== 'worst' && head !== 'Look')

function PosterRow({
  screenClass: each,
  density,
  slide,
  heads,
  recipe,
}: {
  screenClass: ScreenClass
  density: number
  slide: number | null
  heads: readonly (typeof HEADS)[number][]
  recipe: PosterRecipe
}) {
  const made = useWork((state) => state.made)
  const job = useJob(recipe)
  const { screenClass: chosen } = useWeightView()
  const rendition = made[recipeKey(recipe)]
  const facts = rendition?.facts.kind === 'poster' ? rendition.facts : null
  return (
    <Row marked={each === chosen}>
      {SCREENS[each].label}
      {`${recipe.width} × ${recipe.height}`}
      {`${slide !== null ? `Slide ${slide + 1}` : recipe.sequence.kind === 'image' ? 'Image' : 'Poster'}, ${PICTURE_NAMES[recipe.format]}${density > 1 ? `, ${density}x` : ''}`}
      {rendition ? formatBytes(rendition.bytes) : '–'}
      {rendition
        ? slide !== null && slide > 0
          ? 'shared with the others'
          : `${Math.round((rendition.bytes / recipe.maxBytes) * 100)} % of ${formatBytes(recipe.maxBytes)}`
        : stateOf(job)}
      {facts ? (recipe.format === 'svg' ? 'drawing' : facts.ssim.toFixed(3)) : ''}
      {...heads
        .slice(heads.indexOf('SSIM') + 1)
        .map((head) => (head === 'Encoded' && facts ? encoderWords(facts) : ''))}
    </Row>
  )
}

/** A figure that is expected, not measured. */
function Expected({ children }: { children: ReactNode }) {
  return (
    <span className="text-muted italic" title="Expected, as far as short encodes tell">
      ≈ {children}
    </span>
  )
}

/** The expected size of a file that is not rendered yet, against its budget. */
function Unmade({
  recipe: { goal },
  expected: { bytes, isVisuallyLossless },
}: {
  recipe: ClipRecipe
  expected: Forecast
}) {
  if (goal?.kind === 'budget' && bytes > goal.bytes * 1.005)
    return (
      <span className="font-medium text-fix">not rendered yet; over {formatBytes(goal.bytes)}</span>
    )
  return (
    <span className="text-muted">
      {isVisuallyLossless ? 'visually lossless; ' : ''}not rendered yet
    </span>
  )
}

function Row({ marked, children }: { marked: boolean; children: readonly ReactNode[] }) {
  return (
    <tr data-marked={marked || undefined} className={marked ? 'bg-sheet' : ''}>
      {children.map((cell, column) => (
        <td key={column} className="border-b border-line py-0.5 pr-3 tabular-nums">
          {cell}
        </td>
      ))}
    </tr>
  )
}

/**
 * Scrolls to the first files of the chosen screen where they are out of sight; the head of the
 * table stays above them.
 */
function showMarked(scroller: HTMLElement | null): void {
  const [first, , third] = scroller?.querySelectorAll<HTMLElement>('tr[data-marked]') ?? []
  if (!scroller || !first) return
  const head = scroller.querySelector('thead')!.offsetHeight
  const foot = (third ?? first).offsetTop + first.offsetHeight
  if (
    first.offsetTop - head >= scroller.scrollTop &&
    foot <= scroller.scrollTop + scroller.clientHeight
  )
    return
  scroller.scrollTo({ top: first.offsetTop - head })
}

/** How much of its part of the budget a file fills; why it may leave some. */
function Filled({
  recipe,
  bytes,
  quality,
}: {
  recipe: ClipRecipe
  bytes: number
  quality: ClipQuality | null
}) {
  if (recipe.goal?.kind !== 'budget')
    return <span>{recipe.goal ? `holds ${recipe.goal.ssim}` : ''}</span>
  const share = bytes / recipe.goal.bytes
  const words = `${(share * 100).toFixed(share > 0.95 ? 1 : 0)} % of ${formatBytes(recipe.goal.bytes)}`
  if (share > 1) return <span className="font-medium text-fix">{words}, over</span>
  const short = share < 0.95
  const ceiling =
    share < 0.98 &&
    quality !== null &&
    showsNoLoss({ ssim: quality.ssim, seen: quality.seen ?? quality.psnr })
  return (
    <span
      title={
        ceiling
          ? 'The file is visually lossless: more bytes would not be visible.'
          : short
            ? 'The encoder cannot reach a higher quality.'
            : ''
      }
    >
      {words}
      {ceiling ? ', visually lossless' : short ? ', at the encoder’s maximum quality' : ''}
    </span>
  )
}

/** What encoded a clip, and how long it took. */
function Encoding({ rendition }: { rendition: Rendition | undefined }) {
  if (rendition?.facts.kind !== 'clip') return null
  const { encodeSeconds: seconds, passes, encoder } = rendition.facts
  return (
    <span
      title={`${encoder ?? 'The encoder of a browser'}: ${seconds.toFixed(1)} s, ${passes === 1 ? 'one pass' : `${passes} passes`}`}
    >
      {encoderWords(rendition.facts)}, {seconds.toFixed(seconds < 10 ? 1 : 0)} s
    </span>
  )
}

/** The program, without its version; the browser where there is none. */
const encoderWords = ({ encoder }: { readonly encoder: string | null }): string =>
  encoder?.split(' ')[0] ?? 'browser'
