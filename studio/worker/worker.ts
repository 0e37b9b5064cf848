import { assertNever } from '../../core/result'
import { analyseClip } from './analyseClip'
import { analyseStill } from './analyseStill'
import { openClip, type OpenClip } from './OpenClip'
import type { Order, Outcome, Reply, Request, Step } from './messages'
import { readFrames } from './readFrames'
import { renderClip } from './renderClip'
import { renderPoster } from './renderPoster'
import { blobOf, openPlace, type ClipPlace } from './sources'
import { WorkError } from './WorkError'

/* The media worker: decodes, composes, encodes and packs away from the interface's thread. Orders run side by side; each can be cancelled. */

const running = new Map<number, AbortController>()
const MOST_OPEN = 4
/** Indexes of the clips used last, so that a drag does not read them again. */
const openClips = new Map<string, Promise<OpenClip>>()

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
  for (const oldest of openClips.keys()) if (openClips.size > MOST_OPEN) openClips.delete(oldest)
  return opened
}

function keyTimes({ presentation, file }: OpenClip): number[] {
  return presentation.times.filter((_, number) => file.video.samples.keys[presentation.order[number]!] === 1)
}

async function carryOut(id: number, order: Order, signal: AbortSignal): Promise<Outcome[Order['type']]> {
  const step = (value: Step[Order['type']], transfer: Transferable[] = []): void => reply({ id, step: value }, transfer)
  if (order.type === 'analyse-still') return analyseStill(await blobOf(order.place, order.mime))
  const clip = await open(order.place)
  switch (order.type) {
    case 'render':
      return order.recipe.kind === 'poster' ? renderPoster(clip, order.recipe, signal) : renderClip(clip, order.recipe, step, signal)
    case 'frames':
      for await (const frame of readFrames(clip, order.numbers, order.width, order.coarse, signal)) step(frame, [frame.picture])
      return null
    case 'index':
      return { timescale: clip.presentation.timescale, times: clip.presentation.times, length: clip.presentation.length, keys: keyTimes(clip) }
    case 'analyse':
      return analyseClip(clip, (done) => step({ done, pass: 0 }), signal)
    default:
      return assertNever(order)
  }
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
      (outcome) => reply({ id, outcome }, outcome && 'bytes' in outcome ? [outcome.bytes.buffer] : outcome && 'strip' in outcome ? [outcome.strip.bytes.buffer] : []),
      (error: unknown) => {
        const known = error instanceof WorkError ? error : new WorkError('work/fault', undefined, error)
        if (known.code === 'work/fault') console.error(error)
        reply({ id, error: { code: known.code, message: known.message } })
      },
    )
    .finally(() => running.delete(id))
})
