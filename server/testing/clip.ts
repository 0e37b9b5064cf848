import { readFile } from 'node:fs/promises'

/** The demonstration's viaduct clip: 640 × 360, 24 frames a second, a little over 300 kB. */
export const readClip = (): Promise<Buffer> =>
  readFile(new URL('../../demo/files/viaduct-crossing.mp4', import.meta.url))

/** A clip of the same frames with other content: its last byte differs. */
export function otherContent(clip: Uint8Array, mark: number): Buffer {
  const bytes = Buffer.from(clip)
  bytes[bytes.byteLength - 1] = mark
  return bytes
}

/**
 * A clip made larger by a box that readers skip, for uploads of many chunks. Source: ISO/IEC
 * 14496-12, clause 8.1.2.
 */
export function paddedClip(clip: Uint8Array, padding: number, seed = 1): Buffer {
  // No chunk's size is a multiple of this prime: chunks in another order are other bytes.
  const pattern = Uint8Array.from({ length: 997 }, (_, at) => (at * 131 + seed * 29) & 255)
  const box = Buffer.alloc(8 + padding, pattern)
  box.writeUInt32BE(box.byteLength)
  box.write('free', 4)
  return Buffer.concat([clip, box])
}
