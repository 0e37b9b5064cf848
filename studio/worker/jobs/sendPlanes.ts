import type { ClipRecipe } from '../../../core/backdrop/recipe'
import type { SeamFigure } from '../../../core/api/wire'
import { describeI420 } from '../../../core/picture/describeI420'
import { limitedRange } from '../../../core/picture/limitedRange'
import { allFrames, cleanedPictures } from '../compose/outputFrames'
import { colourFacts } from '../encode/colourFacts'
import type { OpenSequence } from '../sequences/OpenSequence'
import { WorkError } from '../WorkError'

/** What decides the frames of a clip, whatever encodes them. */
export type PlanesRecipe = Pick<
  ClipRecipe,
  'sequence' | 'width' | 'height' | 'copyBlur' | 'noiseReduction'
>

/** What was sent. */
export interface SentPlanes {
  readonly frames: number
  /** The seam of the composed loop; null where it does not loop. */
  readonly seam: SeamFigure | null
}

/**
 * Sends the composed frames of a clip as I420 planes of limited range: a POST for each to
 * `<to>/<number>`, with the colours in its query as code points of ISO/IEC 23091-2. The next frame
 * is composed while one is under way, and sent when that one has been taken, so that nothing piles
 * up on either side. Errors: those of decoding; `work/unreadable` where a frame is refused.
 */
export async function sendPlanes(
  open: OpenSequence,
  recipe: PlanesRecipe,
  to: string,
  signal: AbortSignal,
): Promise<SentPlanes> {
  const meter = open.seamMeter()
  let sending: Promise<void> = Promise.resolve()
  let count = 0
  const pictures = cleanedPictures(open, recipe, allFrames(open), 0, signal)
  for await (const { k, cleaned, parts } of pictures) {
    if (signal.aborted) throw new WorkError('work/cancelled')
    if (meter?.wants(k)) meter.see(k, describeI420(cleaned.picture))
    meter?.seeParts(k, parts)
    const { primaries, transfer, matrix, fullRange } = colourFacts(cleaned.colour)
    const picture = fullRange ? limitedRange(cleaned.picture) : cleaned.picture
    const query = new URLSearchParams({
      primaries: String(primaries),
      transfer: String(transfer),
      matrix: String(matrix),
    })
    await sending
    sending = post(`${to}/${k}?${query.toString()}`, picture.data, signal)
    // Whoever awaits it next hears of a failure.
    sending.catch(() => undefined)
    count += 1
  }
  await sending
  return { frames: count, seam: meter?.figure() ?? null }
}

async function post(
  url: string,
  planes: Uint8Array<ArrayBuffer>,
  signal: AbortSignal,
): Promise<void> {
  // Chromium sends a blob nine times as fast as the same bytes.
  const answer = await fetch(url, { method: 'POST', body: new Blob([planes]), signal }).catch(
    (cause: unknown) => {
      throw new WorkError(signal.aborted ? 'work/cancelled' : 'work/unreadable', undefined, cause)
    },
  )
  if (!answer.ok) throw new WorkError('work/unreadable')
}
