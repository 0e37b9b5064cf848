import type { EncodeOrder } from '../../studio/worker/encode/EncoderSession'

export type Painter = OffscreenCanvasRenderingContext2D

/** A clip that is drawn: its shape, its coding, and how a moment of it looks. */
export interface Scene {
  /** File name on the shelf. */
  readonly file: string
  readonly width: number
  readonly height: number
  readonly fps: number
  readonly seconds: number
  readonly family: EncodeOrder['family']
  readonly bitsPerSecond: number
  /** Whether a quiet rumble goes along, as cameras record it. */
  readonly sound: boolean
  /** Draws the moment `t` (seconds) on a canvas of the scene's size. */
  paint(painter: Painter, t: number): void
}
