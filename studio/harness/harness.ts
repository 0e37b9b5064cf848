// First: what is shared with the studio must find it set.
import '../zodWithoutJit'
import type { RenditionFacts } from '../../core/api/wire'
import type { ProbeRun } from '../../core/backdrop/measureAdvice'
import type { ClipRecipe, ProbeRecipe, Recipe } from '../../core/backdrop/recipe'
import type { AnySequence } from '../../core/kinds'
import type { FootageSequence } from '../../core/kinds/footage/footageSequence'
import type { CutMotion } from '../../core/loop/chooseOverlap'
import type { LoopRange } from '../../core/loop/findLoops'
import type { Analysis } from '../../core/material/Analysis'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { sequenceOf } from '../../core/backdrop/delivered'
import type { KnownSource } from '../../core/kinds/Kind'
import type { ScreenName } from '../../core/fit/screens'
import type { ContrastRow, WorstMoment } from '../../core/legibility/worstOf'
import { PLAIN_SHAPE } from '../../core/picture/pictureShape'
import type { ProbeFacts } from '../../core/weight/ProbeFacts'
import { contrastOrder } from '../layout/contrastOrder'
import { LayoutPage } from '../layout/LayoutPage'
import { HeldPage, type Held, type HeldPart } from './HeldPage'
import { shownPage, type ShownPage } from './shownPage'
import type { ContrastOrder } from '../worker/contrast/ContrastOrder'
import type { Comparison, ComparisonOrder } from '../worker/jobs/compareClip'
import type { PlanesRecipe, SentPlanes } from '../worker/jobs/sendPlanes'
import { MediaWorker } from '../worker/MediaWorker'
import type { ClipPlace, Places } from '../worker/sources'
import { drawnPlaces } from '../worker/vectorPlace'

/*
 * The page that the command line opens in a headless Chromium: the same worker as the studio's,
 * driven from outside.
 */

/** A found loop without its pictures: ticks of the clip, seconds, seam figure. */
export interface PlainLoop {
  readonly startTicks: number
  readonly endTicks: number
  readonly seconds: number
  readonly ratio: number | null
  readonly deltaE: number
}

/** The worst moments of copy, and after how many milliseconds each phase was through. */
export interface MeasuredContrasts {
  readonly worst: readonly WorstMoment[]
  readonly took: Readonly<Record<string, number>>
}

declare global {
  interface Window {
    /**
     * Renders `recipe` from the clip at `place`, posts the bytes to `resultUrl`, and reports
     * progress through `telonProgress`.
     */
    telonRender(
      place: ClipPlace | Places,
      recipe: Recipe,
      resultUrl: string,
      probe: ProbeFacts | null,
    ): Promise<RenditionFacts>
    /**
     * Short encodes of a clip, at the usual settings or at others, also looked at behind scrims
     * that leave so much contrast.
     */
    telonProbe(
      place: ClipPlace | Places,
      recipe: ProbeRecipe,
      settings: readonly number[] | null,
      contrasts: readonly number[],
    ): Promise<ProbeRun>
    /**
     * Measures the source at `place`, posts its filmstrip to `resultUrl` and gives the figures.
     * `mime` is null for clips.
     */
    telonAnalyse(
      place: ClipPlace,
      mime: string | null,
      resultUrl: string,
    ): Promise<{ analysis: Analysis; cells: number }>
    /** Searches the clip at `place` for loops, best first. */
    telonFindLoops(
      place: ClipPlace,
      range: LoopRange,
      count: number,
    ): Promise<{ loops: PlainLoop[]; seconds: number; searchSeconds: number }>
    /**
     * Posts composed output frame `number` of a loop to `resultUrl`: RGBA, four bytes per pixel.
     */
    telonCompose(
      place: ClipPlace | Places,
      recipe: Pick<ClipRecipe, 'sequence' | 'width' | 'height' | 'copyBlur'>,
      number: number,
      resultUrl: string,
    ): Promise<{ width: number; height: number }>
    /**
     * Posts small pictures (64 × 36, RGBA, one after another) of source frames to `resultUrl`: read
     * in order, asked for one by one, or from the scrub proxy.
     */
    telonFrames(
      place: ClipPlace,
      numbers: readonly number[],
      how: 'in order' | 'exact' | 'proxy',
      resultUrl: string,
    ): Promise<void>
    /**
     * The worst moments of the copy of a document on all screens; null where its frames are no
     * sequence.
     */
    telonContrasts(
      place: ClipPlace | Places,
      document: BackdropDocument,
      known: readonly (readonly [string, KnownSource])[],
    ): Promise<MeasuredContrasts | null>
    /** What a delivered page shows behind its copy on a screen, and where the copy is. */
    telonPage(address: string, screen: ScreenName): Promise<ShownPage>
    /**
     * Opens a delivered page that stands still without its copy, in place of the last one.
     * `period` is that of its live particles.
     */
    telonHeldPage(address: string, screen: ScreenName, period: number | null): Promise<Held>
    /** Takes it to a moment. */
    telonHold(seconds: number): Promise<void>
    /** Scrolls it to one of its region's windows. */
    telonScrollHeld(window: number): Promise<HeldPart>
    /** Measures its copy in pictures (PNG, base64) of its region's parts at that moment. */
    telonMeasureHeld(
      parts: readonly { readonly picture: string; readonly from: number }[],
      seconds: number,
    ): Promise<ContrastRow>
    /** Measures the copy of a page in front of frames. */
    telonMeasure(order: ContrastOrder): Promise<MeasuredContrasts>
    /** Sends the composed frames of a clip to `to`, one after another (jobs/sendPlanes.ts). */
    telonPlanes(place: ClipPlace | Places, recipe: PlanesRecipe, to: string): Promise<SentPlanes>
    /** Compares a finished clip with the frames that it was made from. */
    telonCompare(order: ComparisonOrder): Promise<Comparison>
    /** Measures the motion of a cut. */
    telonCutMotion(place: ClipPlace, sequence: FootageSequence): Promise<CutMotion>
    telonProgress?(done: number, pass: number): void
  }
}

const worker = new MediaWorker()

async function post(resultUrl: string, body: Uint8Array<ArrayBuffer>): Promise<void> {
  const answer = await fetch(resultUrl, { method: 'POST', body })
  if (!answer.ok) throw new Error(`the result was refused: ${answer.status}`)
}

/** Where a sequence's inputs are: each in its own place, or all in the one that is given. */
const placesOf = ({ inputs }: AnySequence, place: ClipPlace | Places): Places =>
  isPlace(place) ? Object.fromEntries(inputs.map((sha256) => [sha256, place])) : place

const isPlace = (place: ClipPlace | Places): place is ClipPlace => 'url' in place || 'file' in place

window.telonProbe = (place, recipe, settings, contrasts) =>
  worker.run(
    { type: 'probe', places: placesOf(recipe.sequence, place), recipe, settings, contrasts },
    { onStep: ({ done }) => window.telonProgress?.(done, 0) },
  )

window.telonRender = async (place, recipe, resultUrl, probe) => {
  const places = await drawnPlaces(recipe, placesOf(recipe.sequence, place))
  const { bytes, facts } = await worker.run(
    { type: 'render', places, recipe, probe },
    { onStep: ({ done, pass }) => window.telonProgress?.(done, pass) },
  )
  await post(resultUrl, bytes)
  return facts
}

window.telonAnalyse = async (place, mime, resultUrl) => {
  const onStep = ({ done, pass }: { done: number; pass: number }): void =>
    window.telonProgress?.(done, pass)
  const { analysis, strip } =
    mime === null
      ? await worker.run({ type: 'analyse', place }, { onStep })
      : await worker.run({ type: 'analyse-image', place, mime })
  await post(resultUrl, strip.bytes)
  return { analysis, cells: strip.cells }
}

window.telonFindLoops = async (place, range, count) => {
  const start = performance.now()
  let described = start
  const { loops, trace } = await worker.run(
    { type: 'find-loops', place, trace: null, range, count },
    {
      onStep: ({ phase, done }) => {
        if (phase === 'describing') described = performance.now()
        window.telonProgress?.(done, phase === 'describing' ? 0 : phase === 'comparing' ? 1 : 2)
      },
    },
  )
  const end = performance.now()
  if (trace.byteLength === 0) throw new Error('the search left no trace')
  return {
    seconds: (end - start) / 1000,
    searchSeconds: (end - described) / 1000,
    loops: loops.map(({ startTicks, endTicks, seconds, ratio, deltaE }) => ({
      startTicks,
      endTicks,
      seconds,
      ratio,
      deltaE,
    })),
  }
}

window.telonFrames = async (place, numbers, how, resultUrl) => {
  const pictures: ImageBitmap[] = []
  if (how === 'in order')
    await worker.run(
      { type: 'frames', place, numbers, width: 640, coarse: false },
      { onStep: ({ picture }) => void pictures.push(picture) },
    )
  else {
    if (how === 'proxy')
      await worker.run({
        type: 'proxy',
        place,
        first: Math.min(...numbers),
        last: Math.max(...numbers),
      })
    for (const number of numbers) {
      const { picture, quick } = await worker.run({
        type: 'exact',
        place,
        number,
        width: 640,
        quick: how === 'proxy',
        shape: PLAIN_SHAPE,
      })
      if (quick !== (how === 'proxy'))
        throw new Error(`frame ${number} did not come from where it should`)
      pictures.push(picture)
    }
  }
  const context = new OffscreenCanvas(64, 36 * pictures.length).getContext('2d')!
  pictures.forEach((picture, at) => context.drawImage(picture, 0, at * 36, 64, 36))
  await post(resultUrl, new Uint8Array(context.getImageData(0, 0, 64, 36 * pictures.length).data))
}

let layoutPage: LayoutPage | null = null

window.telonContrasts = async (place, backdrop, known) => {
  layoutPage ??= new LayoutPage(document.body, './stage.html')
  const layouts = await layoutPage.measure(backdrop)
  const sequence = sequenceOf(backdrop, new Map(known))
  if (!sequence) return null
  const places = placesOf(sequence, place)
  const order = await contrastOrder(backdrop, { known: new Map(known), places }, layouts)
  if (!order) return null
  return measured(order)
}

window.telonPage = shownPage

let held: HeldPage | null = null
const heldPage = (): HeldPage => {
  if (!held) throw new Error('no page is held')
  return held
}

window.telonHeldPage = async (...asked) => {
  held?.close()
  held = null
  const opened = await HeldPage.open(...asked)
  held = opened.page
  return opened.held
}

window.telonHold = (seconds) => heldPage().hold(seconds)

window.telonScrollHeld = (window) => heldPage().scroll(window)

window.telonMeasureHeld = async (parts, seconds) => {
  const pictureOf = async (picture: string): Promise<Blob> =>
    (await fetch(`data:image/png;base64,${picture}`)).blob()
  const pictures = parts.map(async ({ from, picture }) => ({
    from,
    picture: await pictureOf(picture),
  }))
  return heldPage().measure(await Promise.all(pictures), seconds)
}

window.telonMeasure = (order) => measured(order)

async function measured(order: ContrastOrder): Promise<MeasuredContrasts> {
  const begun = performance.now()
  const took: Record<string, number> = {}
  const { worst } = await worker.run(
    { type: 'contrasts', ...order },
    {
      onStep: (step) => {
        took[step.phase] = performance.now() - begun
        if (step.phase === 'reading') window.telonProgress?.(step.done, 0)
      },
    },
  )
  return { worst, took: { ...took, all: performance.now() - begun } }
}

window.telonPlanes = async (place, recipe, to) =>
  worker.run({
    type: 'planes',
    places: await drawnPlaces(recipe, placesOf(recipe.sequence, place)),
    recipe,
    to: new URL(to, location.href).href,
  })

window.telonCompare = ({ clip, planes, ...order }) =>
  worker.run({ type: 'compare', ...order, clip: absolute(clip), planes: absolute(planes) })

const absolute = (place: ClipPlace): ClipPlace =>
  'url' in place ? { ...place, url: new URL(place.url, location.href).href } : place

window.telonCutMotion = (place, sequence) =>
  worker.run({ type: 'cut-motion', places: placesOf(sequence, place), sequence })

window.telonCompose = async (place, recipe, number, resultUrl) => {
  const pictures: ImageBitmap[] = []
  const { sequence, width, height, copyBlur } = recipe
  const places = await drawnPlaces({ sequence, width }, placesOf(sequence, place))
  await worker.run(
    { type: 'output', places, sequence, width, height, copyBlur, numbers: [number] },
    { onStep: ({ picture }) => void pictures.push(picture) },
  )
  const [picture] = pictures
  if (!picture) throw new Error(`the loop has no frame ${number}`)
  const context = new OffscreenCanvas(picture.width, picture.height).getContext('2d')!
  context.drawImage(picture, 0, 0)
  await post(
    resultUrl,
    new Uint8Array(context.getImageData(0, 0, picture.width, picture.height).data),
  )
  return { width: picture.width, height: picture.height }
}
