import { ContainerError } from '../../bytes/ContainerError'
import type { CodecFacts, ColourFacts } from '../MediaFile'
import { av1CodecString, findAv1Sequence } from '../codecs/av1'
import { describeStream } from '../codecs/describeStream'
import { avcCodecString } from '../codecs/h264'
import { hevcCodecString } from '../codecs/hevc'
import { OTHER_CODECS } from '../codecs/otherCodecs'
import { lowestVp9Level, parseVp9Frame, vp9CodecString } from '../codecs/vp9'
import { textIn, type Element } from './ebml'

/**
 * Names the codec of a Matroska track; profile and depth come from the first frame's own header
 * where the container is silent.
 */
export function describeCodec(
  entry: readonly Element[],
  firstFrame: Uint8Array,
  size: { width: number; height: number },
): { codec: CodecFacts; colour: ColourFacts | null } {
  const { codec, colour } = nameCodec(entry, firstFrame, size)
  const stream = describeStream(codec, firstFrame)
  return { codec: { ...codec, stream }, colour: colour ?? stream?.colour ?? null }
}

function nameCodec(
  entry: readonly Element[],
  firstFrame: Uint8Array,
  size: { width: number; height: number },
): { codec: CodecFacts; colour: ColourFacts | null } {
  const id = textIn(entry, 'CodecID')
  const config = entry.find((element) => element.name === 'CodecPrivate')?.payload.slice() ?? null
  switch (id) {
    case 'V_VP8':
      return {
        codec: { family: 'vp8', name: 'VP8', codec: 'vp8', description: null, stream: null },
        colour: null,
      }
    case 'V_VP9': {
      const facts = parseVp9Frame(firstFrame)
      const level = lowestVp9Level(size.width, size.height, 30, 0)
      return {
        codec: {
          family: 'vp9',
          name: 'VP9',
          codec: vp9CodecString({ ...facts, level }),
          description: null,
          stream: null,
        },
        colour: facts.colour,
      }
    }
    case 'V_AV1': {
      const sequence =
        findAv1Sequence(config && config.byteLength > 4 ? config.subarray(4) : firstFrame) ??
        findAv1Sequence(firstFrame)
      if (!sequence) throw new ContainerError('media/bad-value', { subject: 'AV1 sequence header' })
      return {
        codec: {
          family: 'av1',
          name: 'AV1',
          codec: av1CodecString(sequence.facts),
          description: null,
          stream: null,
        },
        colour: sequence.facts.colour,
      }
    }
    case 'V_MPEG4/ISO/AVC': {
      if (!config || config.byteLength < 7)
        throw new ContainerError('media/bad-value', { subject: 'CodecPrivate' })
      const facts = { profile: config[1]!, compatibility: config[2]!, level: config[3]! }
      return {
        codec: {
          family: 'h264',
          name: 'H.264',
          codec: avcCodecString('avc1', facts),
          description: config,
          stream: null,
        },
        colour: null,
      }
    }
    case 'V_MPEGH/ISO/HEVC': {
      if (!config) throw new ContainerError('media/bad-value', { subject: 'CodecPrivate' })
      return {
        codec: {
          family: 'hevc',
          name: 'HEVC',
          codec: hevcCodecString('hvc1', config),
          description: config,
          stream: null,
        },
        colour: null,
      }
    }
    case 'V_MJPEG':
      return {
        codec: {
          family: 'mjpeg',
          name: 'Motion JPEG',
          codec: 'mjpg',
          description: null,
          stream: null,
        },
        colour: null,
      }
    default:
      return {
        codec: {
          family: 'other',
          name: OTHER_CODECS[id] ?? `"${id}"`,
          codec: id,
          description: null,
          stream: null,
        },
        colour: null,
      }
  }
}
