import { framePlan } from '../../core/loop/framePlan'
import { assertNever } from '../../core/result'
import { analyseClip } from './analyseClip'
import { analyseImage } from './analyseImage'
import { composedFrames } from './composedFrames'
import { frameOf } from './composeFrame'
import { cutMotion } from './cutMotion'
import { ExactDecoders } from './ExactDecoders'
import { findLoopsInClip } from './findLoopsInClip'
import { openClip, type OpenClip } from './OpenClip'
import { smoothProgress } from './smoothProgress'
import type { Order, Outcome, Reply, Request, Step } from './messages'
import { probeClip } from './probeClip'
import { readFrames } from './readFrames'
import { renderClip } from './renderClip'
import { renderPoster } from './renderPoster'
import { blobOf, openPlace, type ClipPlace } from './sources'
import { posterCandidates } from './posterCandidates'
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

function keyTimes({ presentation, file }: OpenClip): number[] {
  return presentation.times.filter(
    (_, number) => file.video.samples.keys[presentation.order[number]!] === 1,
  )
}

async function carryOut(
  id: number,
  order: Order,
  signal: AbortSignal,
): Promise<Outcome[Order['type']]> {
  const step = (value: Step[Order['type']], transfer: Transferable[] = []): void =>
    reply({ id, step: value }, transfer)
  const progress = smoothProgress(step)
  if (order.type === 'analyse-still') return analyseImage(await blobOf(order.place, order.mime))
  const clip = await open(order.place)
  switch (order.type) {
    case 'render':
      return order.recipe.kind === 'poster'
        ? renderPoster(clip, order.recipe, order.poster ?? null, signal)
        : renderClip(clip, order.recipe, order.probe ?? null, progress, signal)
    case 'probe':
      return probeClip(
        clip,
        order.recipe,
        (done) => progress({ done, pass: 0 }),
        signal,
        order.settings ?? null,
        order.contrasts ?? [],
      )
    case 'frames':
      for await (const frame of readFrames(
        clip,
        order.numbers,
        order.width,
        order.coarse,
        signal,
        order.shape,
      ))
        step(frame, [frame.picture])
      return null
    case 'exact':
      return decoders.frame(clip, order, signal)
    case 'proxy':
      await decoders.makeProxy(clip, order, (done) => progress({ done, pass: 0 }), signal)
      return null
    case 'output': {
      const plan = framePlan(order.recipe, clip.presentation)
      const numbers = order.numbers.filter((number) => plan[number])
      let index = 0
      for await (const composed of composedFrames(
        clip,
        order.recipe,
        numbers.map((number) => plan[number]!),
        signal,
      )) {
        const frame = frameOf(composed, 0)
        const picture = await createImageBitmap(frame)
        frame.close()
        step({ number: numbers[index++]!, picture }, [picture])
      }
      return null
    }
    case 'index':
      return {
        timescale: clip.presentation.timescale,
        times: clip.presentation.times,
        length: clip.presentation.length,
        keys: keyTimes(clip),
        sizes: clip.presentation.order.map((sample) => clip.file.video.samples.sizes[sample]!),
      }
    case 'analyse':
      return analyseClip(clip, (done) => progress({ done, pass: 0 }), signal)
    case 'find-loops':
      return findLoopsInClip(clip, order.trace, order.range, order.count, step, signal)
    case 'cut-motion':
      return cutMotion(clip, order.recipe, (done) => progress({ done, pass: 0 }), signal)
    case 'candidates':
      return posterCandidates(
        clip,
        order.recipe,
        order.copy,
        (done) => progress({ done, pass: 0 }),
        signal,
      )
    default:
      return assertNever(order)
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
    .then(
      (outcome) => reply({ id, outcome }, handedOver(outcome)),
      (error: unknown) => {
        const known =
          error instanceof WorkError ? error : new WorkError('work/fault', undefined, error)
        if (known.code === 'work/fault') console.error(error)
        reply({ id, error: { code: known.code, message: known.message } })
      },
    )
    .finally(() => running.delete(id))
})
