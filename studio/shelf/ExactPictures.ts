import type { ClipSource } from '../../core/api/wire'
import { frameWorker } from '../state/frameWorker'
import { placeOf } from '../state/workStore'
import { latestOnly } from '../worker/latestOnly'

const WIDTH = 1280

/** Draws exact frames of a clip on a canvas: the latest request wins. */
export class ExactPictures {
  private readonly onDrawn: () => void
  private readonly requests = latestOnly<number>((number) => this.read(number))
  private source: ClipSource | null = null
  private canvas: HTMLCanvasElement | null = null

  constructor(onDrawn: () => void) {
    this.onDrawn = onDrawn
  }

  /** The clip and the canvas that frames are drawn on. */
  open(source: ClipSource, canvas: HTMLCanvasElement | null): void {
    this.source = source
    this.canvas = canvas
  }

  show(number: number): void {
    this.requests.ask(number)
  }

  private async read(number: number): Promise<void> {
    const { source } = this
    if (!source) return
    const order = {
      type: 'frames',
      place: placeOf(source),
      numbers: [number],
      width: WIDTH,
      coarse: false,
    } as const
    await frameWorker().run(order, { onStep: ({ picture }) => this.draw(source, picture) })
  }

  private draw(source: ClipSource, picture: ImageBitmap): void {
    // A frame of the clip that was open before came too late.
    if (this.canvas && source === this.source) {
      this.canvas.width = picture.width
      this.canvas.height = picture.height
      this.canvas.getContext('2d')!.drawImage(picture, 0, 0)
      this.onDrawn()
    }
    picture.close()
  }
}
