import { open } from 'node:fs/promises'
import { i420Bytes } from '../core/picture/I420'
import type { RawFrames } from '../core/weight/native/Encoder'
import type {
  InputFiles,
  PlanesColour,
  PlanesRecipe,
  RenderBrowser,
  SentPlanes,
} from '../headless/RenderBrowser'
import { EncoderFailure } from './runEncoder'
import { DISK_FULL, isDiskFull } from './scratchFolder'

/** Raw frames of one clip on disk may take so much. */
const MAX_SPOOL_BYTES = 24e9

/** The frames of a clip on disk: composed once for all passes. */
export interface SpooledFrames {
  readonly path: string
  readonly raw: RawFrames
  readonly seam: SentPlanes['seam']
}

/**
 * Composes the frames of a clip in the browser and writes them to a file of raw planes. Errors:
 * EncoderFailure where they take too much room or the disk is full; those of decoding.
 */
export async function spoolFrames(
  browser: RenderBrowser,
  files: InputFiles,
  recipe: PlanesRecipe,
  path: string,
  signal: AbortSignal,
  onFrames: (done: number) => void,
): Promise<SpooledFrames> {
  const { width, height, sequence } = recipe
  const bytes = sequence.frames * i420Bytes(width, height)
  if (bytes > MAX_SPOOL_BYTES)
    throw new EncoderFailure(
      `Its raw frames take ${Math.round(bytes / 1e9)} GB, and ${MAX_SPOOL_BYTES / 1e9} are allowed. Use a shorter cut or a smaller size, or the encoder of the browser.`,
    )
  const file = await open(path, 'w')
  let colours: PlanesColour | null = null
  try {
    const { frames, seam } = await browser.planes(files, recipe, async (k, planes, colour) => {
      signal.throwIfAborted()
      colours ??= colour
      await writeAll(file, planes, k * planes.byteLength)
      onFrames(k + 1)
    })
    const raw: RawFrames = {
      width,
      height,
      frames,
      loops: sequence.loops,
      frameRate: sequence.frameRate,
      colour: colours ?? { primaries: 1, transfer: 1, matrix: 1 },
    }
    return { path, raw, seam }
  } finally {
    await file.close()
  }
}

async function writeAll(
  file: Awaited<ReturnType<typeof open>>,
  planes: Buffer,
  position: number,
): Promise<void> {
  try {
    let written = 0
    while (written < planes.byteLength)
      written += (
        await file.write(planes, written, planes.byteLength - written, position + written)
      ).bytesWritten
  } catch (cause) {
    throw isDiskFull(cause) ? new EncoderFailure(DISK_FULL, { cause }) : cause
  }
}
