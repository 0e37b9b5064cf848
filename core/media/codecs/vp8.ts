import { ContainerError } from '../../bytes/ContainerError'

/** Whether a VP8 frame is a key frame, by its own header bit. Source: RFC 6386, clause 9.1. */
export function isVp8KeyFrame(frame: Uint8Array): boolean {
  return frame.byteLength > 0 && (frame[0]! & 1) === 0
}

/**
 * What a VP8 key frame's header says; sizes without the scaling hint. Source: RFC 6386, clause 9.1.
 * Errors: `media/bad-value`, `media/truncated`.
 */
export function parseVp8Frame(frame: Uint8Array): {
  profile: number
  width: number
  height: number
} {
  if (frame.byteLength < 10)
    throw new ContainerError('media/truncated', { offset: frame.byteLength, subject: 'VP8 frame' })
  if (!isVp8KeyFrame(frame) || frame[3] !== 0x9d || frame[4] !== 0x01 || frame[5] !== 0x2a)
    throw new ContainerError('media/bad-value', { subject: 'VP8 start code' })
  const side = (at: number): number => (frame[at]! | (frame[at + 1]! << 8)) & 0x3fff
  return { profile: (frame[0]! >> 1) & 7, width: side(6), height: side(8) }
}
