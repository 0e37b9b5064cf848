import type { AnySequence } from '../../../core/kinds'
import type { FootageSequence } from '../../../core/kinds/footage/footageSequence'
import { assertNever } from '../../../core/result'
import type { OpenClip } from '../decode/OpenClip'
import { placeIn, type ClipPlace, type Places } from '../sources'
import { OpenFootage } from './OpenFootage'
import { OpenParticles } from './OpenParticles'
import type { OpenSequence } from './OpenSequence'
import { OpenSlideshow } from './OpenSlideshow'
import { openImage, openPaint } from './OpenStill'
import { OpenToned } from './OpenToned'

/**
 * Opens the inputs of a sequence: every kind has its line here. `open` opens a clip. Errors:
 * `work/cannot-decode`, `work/unreadable`.
 */
export async function openSequence(
  sequence: AnySequence,
  places: Places,
  open: (place: ClipPlace) => Promise<OpenClip>,
): Promise<OpenSequence> {
  const plain = await openPlain(sequence, places, open)
  return sequence.tone ? new OpenToned(plain, sequence.tone) : plain
}

async function openPlain(
  sequence: AnySequence,
  places: Places,
  open: (place: ClipPlace) => Promise<OpenClip>,
): Promise<OpenSequence> {
  switch (sequence.kind) {
    case 'footage':
      return openFootage(sequence, places, open)
    case 'slideshow':
      return new OpenSlideshow(sequence, places)
    case 'image':
      return openImage(sequence, placeIn(places, sequence.sourceSha256))
    case 'paint':
      return openPaint(sequence)
    case 'particles':
      return new OpenParticles(sequence, await openSequence(sequence.under, places, open))
    default:
      return assertNever(sequence)
  }
}

/** Opens footage, for what works on its clip alone. */
export async function openFootage(
  sequence: FootageSequence,
  places: Places,
  open: (place: ClipPlace) => Promise<OpenClip>,
): Promise<OpenFootage> {
  return new OpenFootage(await open(placeIn(places, sequence.sourceSha256)), sequence)
}
