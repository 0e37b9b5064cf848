import { loopOf } from '../../../core/kinds/footage/footageSequence'
import { loopMoment } from '../../../core/loop/framePlan'
import type { KindView } from '../KindView'
import { drawCover } from '../drawCover'
import { documentOf, readingOf } from '../ofKind'
import { clipOf, withClip } from './clipOf'
import { LostClip } from './LostClip'
import { MaterialBench } from './material/MaterialBench'
import { MaterialDeck } from './material/MaterialDeck'
import { readMaterial } from './material/readMaterial'
import { stripPicture } from './stripPicture'
import { readTiming } from './timing/readTiming'
import { TimingBench } from './timing/TimingBench'
import { TimingDeck } from './timing/TimingDeck'

/** Footage: its clip, and the timing of its loop. */
export const footageView: KindView = {
  rooms: {
    material: {
      label: 'Material',
      read: readingOf('footage', readMaterial),
      Bench: withClip(MaterialBench),
      Deck: withClip(MaterialDeck),
      deckHeight: 'h-52',
    },
    timing: {
      label: 'Timing',
      read: readingOf('footage', readTiming),
      Bench: withClip(TimingBench),
      Deck: withClip(TimingDeck),
      deckHeight: 'h-56',
    },
  },
  firstRoom: 'timing',
  handles: {},
  standInMedia: () => null,
  draw(context, { picture, focal, ...region }) {
    if (picture) drawCover(context, picture, region, focal)
    return picture !== null
  },
  standIn(document, sources) {
    const own = documentOf(document, 'footage')
    return stripPicture(clipOf(own, sources), own.base.timing.cut)
  },
  Lost: LostClip,
  momentOf(document, sources, ticks) {
    const own = documentOf(document, 'footage')
    const { timescale } = clipOf(own, sources).facts.video
    return loopMoment(loopOf(own.base), ticks / timescale)
  },
}
