import { WorkError } from '../WorkError'

const SIDE = 128
const CODECS = { vp9: 'vp09.00.10.08', av1: 'av01.0.01M.08' } as const

/**
 * The coarsest quantizer that the browser's encoder knows: 255 in some, 63 in others; no interface
 * says which. Source: docs/method.md (foreign files).
 */
export async function coarsestQuantizer(family: keyof typeof CODECS): Promise<number> {
  // Where 255 is known it gives far fewer bytes than 63 for the same noise; elsewhere it is
  // refused, or treated as a finer one.
  const [at63, at255] = [
    await noiseBytes(family, 63),
    await noiseBytes(family, 255).catch(() => Infinity),
  ]
  return at255 < at63 * 0.6 ? 255 : 63
}

async function noiseBytes(family: keyof typeof CODECS, quantizer: number): Promise<number> {
  let bytes = 0
  const failure: { error: unknown } = { error: null }
  const encoder = new VideoEncoder({
    output: (chunk) => (bytes += chunk.byteLength),
    error: (error) => (failure.error = error),
  })
  encoder.configure({
    codec: CODECS[family],
    width: SIDE,
    height: SIDE,
    framerate: 30,
    bitrateMode: 'quantizer',
  })
  let state = 1
  const data = Uint8Array.from(
    { length: (SIDE * SIDE * 3) / 2 },
    () => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) >>> 24,
  )
  const frame = new VideoFrame(data, {
    format: 'I420',
    codedWidth: SIDE,
    codedHeight: SIDE,
    timestamp: 0,
  })
  encoder.encode(frame, { keyFrame: true, [family]: { quantizer } })
  frame.close()
  await encoder.flush().catch((error: unknown) => (failure.error ??= error))
  if (encoder.state !== 'closed') encoder.close()
  if (failure.error) throw new WorkError('work/cannot-encode', undefined, failure.error)
  return bytes
}
