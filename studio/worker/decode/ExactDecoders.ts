import { inTurn } from '../inTurn'
import type { Order, Outcome } from '../messages'
import { WorkError } from '../WorkError'
import { drawUpright } from './drawUpright'
import { ExactFrames } from './ExactFrames'
import type { OpenClip } from './OpenClip'
import { pictureSides } from './readFrames'
import { makeScrubProxy, type ScrubProxy } from './scrubProxy'

type ExactOrder = Extract<Order, { type: 'exact' }>

const PROXY_WIDTH = 640

/**
 * Exact frames, one order at a time: the decoder of the last clip stays open, and so does the last
 * scrub proxy. An order for another clip waits until the previous one has its frame; only then is
 * its decoder closed.
 */
export class ExactDecoders {
  private readonly turn = inTurn()
  private exact: { readonly clip: OpenClip; readonly frames: ExactFrames } | null = null
  private proxied: { readonly clip: OpenClip; readonly proxy: ScrubProxy } | null = null

  /** A frame; with `quick` from the scrub proxy where it covers it. */
  frame(clip: OpenClip, order: ExactOrder, signal: AbortSignal): Promise<Outcome['exact']> {
    return this.turn(async () => {
      if (signal.aborted) throw new WorkError('work/cancelled')
      const [width, height] = pictureSides(clip, order.width, order.shape)
      const proxy = order.quick ? this.proxyFor(clip, order.number) : null
      const frame = await (proxy
        ? proxy.frames.frame(order.number - proxy.first, signal)
        : this.framesOf(clip).frame(order.number, signal))
      try {
        const canvas = proxy
          ? drawProxy(frame, width, height, order)
          : drawUpright(frame, clip.file.video, width, height, order.shape)
        return { picture: canvas.transferToImageBitmap(), quick: proxy !== null }
      } finally {
        frame.close()
      }
    })
  }

  /**
   * Makes the scrub proxy of some frames; frames are given meanwhile, from what was there before.
   */
  async makeProxy(
    clip: OpenClip,
    range: { first: number; last: number },
    onProgress: (done: number) => void,
    signal: AbortSignal,
  ): Promise<void> {
    const proxy = await makeScrubProxy(clip, range.first, range.last, onProgress, signal)
    await this.turn(async () => {
      this.proxied?.proxy.frames.close()
      this.proxied = { clip, proxy }
    })
  }

  private proxyFor(clip: OpenClip, number: number): ScrubProxy | null {
    if (this.proxied?.clip !== clip) return null
    const { proxy } = this.proxied
    return number >= proxy.first && number <= proxy.last ? proxy : null
  }

  private framesOf(clip: OpenClip): ExactFrames {
    if (this.exact?.clip === clip) return this.exact.frames
    this.exact?.frames.close()
    this.exact = { clip, frames: new ExactFrames(clip) }
    return this.exact.frames
  }
}

/** The proxy is upright already, at its own size. */
function drawProxy(
  frame: VideoFrame,
  width: number,
  height: number,
  { shape }: ExactOrder,
): OffscreenCanvas {
  const { width: visibleWidth, height: visibleHeight } = frame.visibleRect!
  const drawn = Math.min(width, PROXY_WIDTH)
  const track = { rotationDeg: 0, visibleWidth, visibleHeight }
  return drawUpright(frame, track, drawn, Math.round((drawn * height) / width), shape)
}
