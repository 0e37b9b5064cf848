import type { ClipSource } from '../../../core/api/wire'
import type { Cut } from '../../../core/loop/framePlan'
import { mediaUrl } from '../../api/client'

/** The picture of a clip's filmstrip at the start of a cut; null if it has none yet. */
export async function stripPicture(
  { strip, facts }: ClipSource,
  { start, timescale }: Cut,
): Promise<ImageBitmap | null> {
  if (!strip) return null
  const answer = await fetch(mediaUrl(strip.sha256, 'image/webp'))
  if (!answer.ok) return null
  const whole = await createImageBitmap(await answer.blob())
  const width = whole.width / strip.cells
  const share = (start * 1000) / timescale / Math.max(1, facts.durationMs)
  const cell = Math.min(strip.cells - 1, Math.floor(share * strip.cells))
  return createImageBitmap(whole, cell * width, 0, width, whole.height).finally(() => whole.close())
}
