import type { ClipSource } from '../../core/api/wire'
import type { PictureShape } from '../../core/picture/pictureShape'
import { frameWorker } from '../state/frameWorker'
import { useStage } from '../state/stageStore'
import { placeOf } from '../state/workStore'
import { latestOnly } from '../worker/latestOnly'
import { WorkError } from '../worker/WorkError'

/** When a hand rests so long, the frame is decoded at full size. */
const SETTLE_MS = 140
const STAGE_WIDTH = 1280

interface Wanted {
  readonly number: number
  readonly quick: boolean
}

/**
 * Shows exact source frames on the stage: the latest request wins; first from the scrub proxy if
 * there is one, then at full size once the pointer rests.
 */
export class Scrubber {
  private readonly source: ClipSource
  private shape: PictureShape
  private readonly requests = latestOnly<Wanted>((wanted) => this.read(wanted))
  private abort: AbortController | null = null
  private timer: ReturnType<typeof setTimeout> | undefined

  constructor(source: ClipSource, shape: PictureShape) {
    this.source = source
    this.shape = shape
  }

  setShape(shape: PictureShape): void {
    this.shape = shape
  }

  show(number: number): void {
    clearTimeout(this.timer)
    useStage.getState().set({ scrubbing: true, held: number })
    this.requests.ask({ number, quick: true })
  }

  /** The hand lets go: the frame stays on the stage until something plays. */
  hold(): void {
    useStage.getState().set({ scrubbing: false })
  }

  end(): void {
    clearTimeout(this.timer)
    this.requests.forget()
    this.abort?.abort()
    useStage.getState().set({ scrub: null, scrubbing: false, held: null })
  }

  private async read({ number, quick }: Wanted): Promise<void> {
    const abort = new AbortController()
    this.abort = abort
    const order = {
      type: 'exact',
      place: placeOf(this.source),
      number,
      width: STAGE_WIDTH,
      quick,
      shape: this.shape,
    } as const
    try {
      const outcome = await frameWorker().run(order, { signal: abort.signal })
      // Something plays again: the frame came too late.
      if (useStage.getState().held === null) return outcome.picture.close()
      useStage.getState().set({ scrub: { number, picture: outcome.picture } })
      if (!outcome.quick) return
      clearTimeout(this.timer)
      this.timer = setTimeout(() => {
        if (!this.requests.isBusy) this.requests.ask({ number, quick: false })
      }, SETTLE_MS)
    } catch (error) {
      const isCancelled = error instanceof WorkError && error.code === 'work/cancelled'
      if (!isCancelled) useStage.getState().set({ scrub: null })
    }
  }
}
