import { loopSeconds } from '../../loop/framePlan'
import { findingsLeftBy, findingsWithin } from '../../material/findings'
import { CLIP_BYTES, CLIP_PICTURES } from '../clipUse'
import type { Kind } from '../Kind'
import { describeFootage, type DescribedFootage } from './describeFootage'
import { footageSchema, type Footage } from './Footage'
import {
  loopOf,
  footageSequence,
  footageSequenceSchema,
  type FootageSequence,
} from './footageSequence'
import { lighterFootage } from './lighterFootage'
import { labelOfFootage, reduceFootage, type FootageAction } from './reduceFootage'

/** Footage: part of a clip, over its poster. */
export const footage: Kind<Footage, FootageAction, FootageSequence, DescribedFootage> = {
  schema: footageSchema,
  actions: ['material', 'timing', 'picture'],
  clips: () => true,
  pictures: () => CLIP_PICTURES,
  motion: (base) => ({
    turnSeconds: loopSeconds(loopOf(base)),
    loops: base.timing.repeat === 'loop',
  }),
  ground: () => ({ color: null, placeholder: true }),
  styleBytes: () => CLIP_BYTES.style,
  frameRate: ({ timing }) => timing.frameRate,
  sequenceSchema: footageSequenceSchema,
  reduce: reduceFootage,
  label: labelOfFootage,
  sources: ({ material }) => [{ sourceId: material.sourceId, sha256: null }],
  sequence: footageSequence,
  layers(base, { clips, posters }) {
    const { repeat, atEnd } = base.timing
    return [
      { type: 'picture', posters },
      {
        type: 'video',
        clips,
        size: posters[0] ?? clips[0] ?? null,
        loops: repeat === 'loop',
        seconds: loopSeconds(loopOf(base)),
        fades: repeat === 'once' && atEnd === 'fade',
      },
    ]
  },
  describe: describeFootage,
  lighter: lighterFootage,
  checks({ material, timing, picture }, known) {
    const { cut } = timing
    return findingsWithin(
      findingsLeftBy(known.get(material.sourceId)?.findings ?? [], picture.crop),
      (cut.start * 1000) / cut.timescale,
      (cut.end * 1000) / cut.timescale,
    ).filter((finding) => finding.weight !== 'note')
  },
}
