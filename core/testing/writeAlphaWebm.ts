import type { EncodedTrack } from '../media/EncodedTrack'
import { CODEC_IDS, binary, text, unsigned } from '../media/matroska/writeWebm'

/**
 * A WebM file of one cluster with a second picture for each frame that holds the alpha (null leaves
 * it out). Source: RFC 9559, sections 5.1.3.5.2 and 5.1.4.1.28.4.
 */
export function writeAlphaWebm(
  track: EncodedTrack,
  alphas: readonly (Uint8Array | null)[],
): Uint8Array<ArrayBuffer> {
  if (track.family === 'h264') throw new RangeError('WebM does not take H.264')
  const head = binary('EBML', text('DocType', 'webm'))
  const tracks = binary(
    'Tracks',
    binary(
      'TrackEntry',
      unsigned('TrackNumber', 1),
      unsigned('TrackType', 1),
      text('CodecID', CODEC_IDS[track.family]),
      binary(
        'Video',
        unsigned('PixelWidth', track.width),
        unsigned('PixelHeight', track.height),
        unsigned('AlphaMode', 1),
      ),
    ),
  )
  const groups = track.frames.map(({ data, key }, index) => {
    const ms = Math.round((index * 1000 * track.frameRate.den) / track.frameRate.num)
    const alpha = alphas[index]
    return binary(
      'BlockGroup',
      binary('Block', Uint8Array.from([0x81, ms >> 8, ms & 255, 0]), data),
      ...(alpha
        ? [
            binary(
              'BlockAdditions',
              // Another program's addition comes first: it must not be taken for alpha.
              binary(
                'BlockMore',
                unsigned('BlockAddID', 4),
                binary('BlockAdditional', new Uint8Array(5)),
              ),
              binary('BlockMore', unsigned('BlockAddID', 1), binary('BlockAdditional', alpha)),
            ),
          ]
        : []),
      ...(key ? [] : [binary('ReferenceBlock', Uint8Array.from([0xff]))]),
    )
  })
  const cluster = binary('Cluster', unsigned('Timestamp', 0), ...groups)
  const segment = binary('Segment', tracks, cluster)
  const whole = new Uint8Array(head.byteLength + segment.byteLength)
  whole.set(head)
  whole.set(segment, head.byteLength)
  return whole
}
