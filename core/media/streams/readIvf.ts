import { ContainerError } from '../../bytes/ContainerError'

/**
 * The frames of an IVF file, in order: what encoders of VP9 and AV1 write. Each is a superframe or
 * a temporal unit, which shows one picture. Views, not copies. Source: the format as libvpx writes
 * it: a head of 32 bytes that begins with `DKIF`, then for each frame its size and its time, little
 * endian, in 4 and 8 bytes. Errors: `media/bad-value`,
 * `media/bad-size`, `media/truncated`.
 */
export function readIvf(bytes: Uint8Array): Uint8Array[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.byteLength < IVF_HEAD || view.getUint32(0) !== DKIF)
    throw new ContainerError('media/bad-value', { offset: 0, subject: 'IVF head' })
  const frames: Uint8Array[] = []
  let at = view.getUint16(6, true)
  if (at < IVF_HEAD) throw new ContainerError('media/bad-size', { offset: 6, subject: 'IVF head' })
  while (at < bytes.byteLength) {
    if (at + FRAME_HEAD > bytes.byteLength)
      throw new ContainerError('media/truncated', { offset: at })
    const size = view.getUint32(at, true)
    const start = at + FRAME_HEAD
    if (size > bytes.byteLength - start) throw new ContainerError('media/truncated', { offset: at })
    frames.push(bytes.subarray(start, start + size))
    at = start + size
  }
  return frames
}

const IVF_HEAD = 32
const FRAME_HEAD = 12
const DKIF = 0x444b4946
