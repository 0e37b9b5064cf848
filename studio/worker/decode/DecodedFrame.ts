/** A decoded frame and its number in order of presentation. The taker closes it. */
export interface DecodedFrame {
  readonly number: number
  readonly frame: VideoFrame
}
