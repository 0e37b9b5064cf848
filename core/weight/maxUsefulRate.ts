/** Bits a pixel and frame that suffice for nearly any material. */
const MAX_BITS_PER_PIXEL = { av1: 0.1, vp9: 0.1, h264: 0.22, vp8: 0.22 } as const

/** A bit rate, in bits per second, above which no difference is visible; used for quick files. */
export function maxBitrate(
  family: keyof typeof MAX_BITS_PER_PIXEL,
  width: number,
  height: number,
  framesPerSecond: number,
): number {
  return width * height * framesPerSecond * MAX_BITS_PER_PIXEL[family]
}
