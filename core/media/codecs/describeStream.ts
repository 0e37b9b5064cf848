import { ContainerError } from '../../bytes/ContainerError'
import type { CodecFacts, StreamFacts } from '../MediaFile'
import { findAv1Sequence } from './av1'
import { describeHevc } from './hevc'
import { avcNals, parseSps, type SpsFacts } from './h264'
import { parseVp8Frame } from './vp8'
import { parseVp9Frame } from './vp9'

/** Profile names by `profile_idc`. Source: ITU-T H.264 (08/2021), annex A. */
const AVC_PROFILES: Readonly<Record<number, string>> = {
  66: 'Baseline',
  77: 'Main',
  88: 'Extended',
  100: 'High',
  110: 'High 10',
  122: 'High 4:2:2',
  244: 'High 4:4:4',
  44: 'CAVLC 4:4:4',
}
const AVC_CHROMA = ['4:0:0', '4:2:0', '4:2:2', '4:4:4'] as const
const VP9_CHROMA = ['4:2:0', '4:2:0', '4:2:2', '4:4:4'] as const
const AV1_PROFILES = ['Main', 'High', 'Professional']

/**
 * What the bitstream says of the picture, from the decoder configuration and the head of the first
 * frame; null where neither says. Damaged headers give null too: the decoder decides about them.
 */
export function describeStream(
  codec: Pick<CodecFacts, 'family' | 'description'>,
  firstFrame: Uint8Array,
): StreamFacts | null {
  try {
    return describe(codec, firstFrame)
  } catch (error) {
    if (error instanceof ContainerError) return null
    throw error
  }
}

function describe(
  { family, description }: Pick<CodecFacts, 'family' | 'description'>,
  firstFrame: Uint8Array,
): StreamFacts | null {
  switch (family) {
    case 'h264': {
      const sps = findSps(description, firstFrame)
      if (!sps) return null
      const { width, height, bitDepth, colour } = sps
      return {
        profile: AVC_PROFILES[sps.profile] ?? String(sps.profile),
        level: tenths(sps.level),
        bitDepth,
        chroma: AVC_CHROMA[sps.chroma] ?? '4:2:0',
        ...(sps.interlaced ? { interlaced: true } : {}),
        width,
        height,
        colour,
      }
    }
    case 'hevc':
      return description ? describeHevc(description) : null
    case 'vp8': {
      const facts = parseVp8Frame(firstFrame)
      return {
        profile: String(facts.profile),
        level: null,
        bitDepth: 8,
        chroma: '4:2:0',
        width: facts.width,
        height: facts.height,
        colour: null,
      }
    }
    case 'vp9': {
      const facts = parseVp9Frame(firstFrame)
      return {
        profile: String(facts.profile),
        level: null,
        bitDepth: facts.bitDepth,
        chroma: VP9_CHROMA[facts.chroma] ?? '4:2:0',
        width: facts.width,
        height: facts.height,
        colour: facts.colour,
      }
    }
    case 'av1': {
      const sequence = findAv1Sequence(firstFrame)
      if (!sequence) return null
      const { facts } = sequence
      return {
        profile: AV1_PROFILES[facts.profile] ?? String(facts.profile),
        level: `${2 + (facts.level >> 2)}.${facts.level & 3}`,
        bitDepth: facts.bitDepth,
        chroma: facts.monochrome
          ? '4:0:0'
          : facts.subX === 0
            ? '4:4:4'
            : facts.subY === 0
              ? '4:2:2'
              : '4:2:0',
        width: facts.width,
        height: facts.height,
        colour: facts.colour.matrix === 2 ? null : facts.colour,
      }
    }
    default:
      return null
  }
}

function tenths(level: number): string {
  return (level / 10).toFixed(1)
}

/**
 * The parameter set in the configuration record, or in the first frame where the record holds none
 * (`avc3`).
 */
function findSps(record: Uint8Array | null, firstFrame: Uint8Array): SpsFacts | null {
  const lengthBytes = record && record.byteLength > 4 ? (record[4]! & 3) + 1 : 4
  if (record && record.byteLength > 8 && (record[5]! & 31) > 0) {
    const length = (record[6]! << 8) | record[7]!
    return parseSps(record.subarray(8, 8 + length))
  }
  for (const nal of avcNals(firstFrame, lengthBytes)) if ((nal[0]! & 31) === 7) return parseSps(nal)
  return null
}
