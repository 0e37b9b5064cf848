import { PLAIN_SHAPE, type PictureShape } from '../../core/picture/pictureShape'
import { assertNever } from '../../core/result'
import { frameOf, type Composed } from './compose/composeFrame'
import { ContrastTraces } from './contrast/ContrastTraces'
import { heldTexts, LargeFrames } from './contrast/fullSize'
import { heldSamples } from './contrast/ParticleSamples'
import { measureContrasts } from './contrast/measureContrasts'
import { measureMap } from './contrast/measureMap'
import { ExactDecoders } from './decode/ExactDecoders'
import { openClip, withMatte, type OpenClip } from './decode/OpenClip'
import { readFrames } from './decode/readFrames'
import { analyseClip } from './jobs/analyseClip'
import { analyseImage } from './jobs/analyseImage'
import { compareClip } from './jobs/compareClip'
import { cutMotion } from './jobs/cutMotion'
import { findLoopsInClip } from './jobs/findLoopsInClip'
import { posterCandidates } from './jobs/posterCandidates'
import { probeClip } from './jobs/probeClip'
import { renderClip } from './jobs/renderClip'
import { PosterPictures } from './jobs/PosterPictures'
import { renderPoster } from './jobs/renderPoster'
import { sendPlanes } from './jobs/sendPlanes'
import { SharedQuality } from './jobs/SharedQuality'
import type { Order, Outcome, Reply, Request, Step } from './messages'
import { openFootage, openSequence } from './sequences/openInputs'
import { smoothProgress } from './smoothProgress'
import { blobOf, openPlace, type ClipPlace } from './sources'
import { WorkError } from './WorkError'

/*
 * The media worker: decodes, composes, encodes and packs away from the interface's thread. Orders
 * run side by side; each can be cancelled.
 */

const running = new Map<number, AbortController>()
const MAX_OPEN = 4
/** Indexes of the clips used last, so that a drag does not read them again. */
const openClips = new Map<string, Promise<OpenClip>>()
const decoders = new ExactDecoders()
const pictures = new PosterPictures()
const contrastMemory = {
  traces: new ContrastTraces(),
  frames: new LargeFrames(),
  painted: heldTexts(),
  sampled: heldSamples(),
}
const posterMemory = { pictures, shared: new SharedQuality(pictures) }

function reply(message: Reply, transfer: Transferable[] = []): void {
  postMessage(message, { transfer })
}

function open(place: ClipPlace): Promise<OpenClip> {
  if ('file' in place) return openClip(openPlace(place))
  const held = openClips.get(place.url)
  if (held) return held
  const opened = openClip(openPlace(place))
  openClips.set(place.url, opened)
  opened.catch(() => openClips.delete(place.url))
  for (const oldest of openClips.keys()) if (openClips.size > MAX_OPEN) openClips.delete(oldest)
  return opened
}

async function carryOut(
  id: number,
  order: Order,
  signal: AbortSignal,
): Promise<Outcome[Order['type']]> {
  const step = (value: Step[Order['type']], transfer: Transferable[] = []): void =>
    reply({ id, step: value }, transfer)
  const progress = smoothProgress(step)
  const onDone = (done: number): void => progress({ done, pass: 0 })
  switch (order.type) {
    case 'render': {
      const { recipe, places } = order
      const sequence = await openSequence(recipe.sequence, places, open)
      return recipe.kind === 'poster'
        ? renderPoster(sequence, recipe, places, posterMemory, signal, onDone)
        : renderClip(sequence, recipe, order.probe ?? null, progress, signal)
    }
    case 'probe': {
      const { recipe, places, settings = null, contrasts = [] } = order
      const sequence = await openSequence(recipe.sequence, places, open)
      return probeClip(sequence, recipe, onDone, signal, settings, contrasts)
    }
    case 'planes': {
      const { recipe, places, to } = order
      return sendPlanes(await openSequence(recipe.sequence, places, open), recipe, to, signal)
    }
    case 'output': {
      const sequence = await openSequence(order.sequence, order.places, open)
      const numbers = order.numbers.filter((number) => number < order.sequence.frames)
      let index = 0
      for await (const composed of sequence.composed(numbers, order, signal)) {
        const picture = await bitmapOf(composed)
        step({ number: numbers[index++]!, picture }, [picture])
      }
      return null
    }
    case 'contrasts':
      return measureContrasts(
        order,
        ({ sequence, places }) => openSequence(sequence, places, open),
        contrastMemory,
        step,
        signal,
      )
    case 'contrast-map':
      return measureMap(
        order,
        ({ sequence, places }) => openSequence(sequence, places, open),
        contrastMemory.traces,
        signal,
      )
    case 'candidates': {
      const sequence = await openSequence(order.sequence, order.places, open)
      return posterCandidates(sequence, order, order.copy, onDone, signal)
    }
    case 'cut-motion':
      return cutMotion(await openFootage(order.sequence, order.places, open), onDone, signal)
    case 'analyse-image':
      return analyseImage(await blobOf(order.place, order.mime))
    case 'frames': {
      const { numbers, width, coarse, shape } = order
      const clip = await openShaped(order.place, shape)
      for await (const frame of readFrames(clip, numbers, width, coarse, signal, shape))
        step(frame, [frame.picture])
      return null
    }
    case 'exact':
      return decoders.frame(await openShaped(order.place, order.shape), order, signal)
    case 'proxy':
      await decoders.makeProxy(await open(order.place), order, onDone, signal)
      return null
    case 'compare':
      return compareClip(order, signal)
    case 'index':
      return indexOf(await open(order.place))
    case 'analyse':
      return analyseClip(await open(order.place), onDone, signal)
    case 'find-loops': {
      const { trace, range, count } = order
      return findLoopsInClip(await open(order.place), trace, range, count, step, signal)
    }
    default:
      return assertNever(order)
  }
}

/** A clip, filled as a shape says. */
async function openShaped(place: ClipPlace, shape: PictureShape = PLAIN_SHAPE): Promise<OpenClip> {
  return withMatte(await open(place), shape.matte)
}

function indexOf(clip: OpenClip): Outcome['index'] {
  const { timescale, times, length, order } = clip.presentation
  const { samples } = clip.file.video
  return {
    timescale,
    times,
    length,
    keys: times.filter((_, number) => samples.keys[order[number]!] === 1),
    sizes: order.map((sample) => samples.sizes[sample]!),
  }
}

async function bitmapOf(composed: Composed): Promise<ImageBitmap> {
  const frame = frameOf(composed, 0)
  try {
    return await createImageBitmap(frame)
  } finally {
    frame.close()
  }
}

/** What an outcome hands over instead of copying it. */
function handedOver(outcome: Outcome[Order['type']]): Transferable[] {
  if (!outcome) return []
  if (Array.isArray(outcome))
    return (outcome as Outcome['candidates']).map(({ picture }) => picture)
  if ('bytes' in outcome) return [outcome.bytes.buffer]
  if ('strip' in outcome)
    return [outcome.strip.bytes.buffer, ...(outcome.trace ? [outcome.trace.bytes.buffer] : [])]
  if ('picture' in outcome) return [outcome.picture]
  // Loops that lie near each other share pictures: those are copied.
  return 'loops' in outcome ? [outcome.trace.buffer] : []
}

addEventListener('message', ({ data }: MessageEvent<Request>) => {
  if ('cancel' in data) {
    running.get(data.cancel)?.abort()
    return
  }
  const { id, order } = data
  const controller = new AbortController()
  running.set(id, controller)
  carryOut(id, order, controller.signal)
    .then((outcome) => reply({ id, outcome }, handedOver(outcome)))
    // Also where an outcome cannot be sent: whoever waits for it is told.
    .catch((error: unknown) => {
      const known =
        error instanceof WorkError ? error : new WorkError('work/fault', undefined, error)
      if (known.code === 'work/fault') console.error(error)
      reply({ id, error: { code: known.code, message: known.message } })
    })
    .finally(() => running.delete(id))
})
