import { paintPixels } from '../../../core/kinds/paint/paintPixels'
import type { KindView } from '../KindView'
import { documentOf, ofKind, readingOf } from '../ofKind'
import { MotionBench } from './MotionBench'
import { MotionDeck } from './MotionDeck'
import { PaintBench } from './PaintBench'
import { PaintDeck } from './PaintDeck'
import { PaintHandles } from './PaintHandles'
import { readMotion } from './readMotion'
import { readPaint } from './readPaint'

/** A smooth picture needs few pixels to be measured by. */
const DRAWN_SHARE = 0.25

/** A paint: its colours and gradients, and their slow motion. */
export const paintView: KindView = {
  rooms: {
    material: {
      label: 'Paint',
      read: readingOf('paint', readPaint),
      Bench: ofKind('paint', PaintBench),
      Deck: ofKind('paint', PaintDeck),
      deckHeight: 'h-52',
    },
    timing: {
      label: 'Timing',
      read: readingOf('paint', readMotion),
      Bench: ofKind('paint', MotionBench),
      Deck: ofKind('paint', MotionDeck),
      deckHeight: 'h-52',
    },
  },
  firstRoom: 'material',
  handles: { material: ofKind('paint', PaintHandles) },
  standInMedia: () => null,
  standIn: () => Promise.resolve(null),
  draw(context, { document, progress, width, height }) {
    const { base } = documentOf(document, 'paint')
    const [wide, high] = [
      Math.max(1, Math.round(width * DRAWN_SHARE)),
      Math.max(1, Math.round(height * DRAWN_SHARE)),
    ]
    const small = new OffscreenCanvas(wide, high)
    small
      .getContext('2d')!
      .putImageData(new ImageData(paintPixels(base, wide, high, progress), wide, high), 0, 0)
    context.drawImage(small, 0, 0, width, height)
    return true
  },
  // No source: none can be lost.
  Lost: () => null,
  momentOf: () => null,
}
