/** Whether a VP8 frame is a key frame, by its own header bit. Source: RFC 6386, clause 9.1. */
export function isVp8KeyFrame(frame: Uint8Array): boolean {
  return frame.byteLength > 0 && (frame[0]! & 1) === 0
}
