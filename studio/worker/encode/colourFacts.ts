import type { ColourFacts } from '../../../core/media/MediaFile'

/** WebCodecs' names as code points of ISO/IEC 23091-2; the default is BT.709, limited. */
export function colourFacts(space: VideoColorSpaceInit | null): ColourFacts {
  const primaries: Record<string, number> = {
    bt709: 1,
    bt470bg: 5,
    smpte170m: 6,
    bt2020: 9,
    smpte432: 12,
  }
  const transfer: Record<string, number> = {
    bt709: 1,
    smpte170m: 6,
    linear: 8,
    'iec61966-2-1': 13,
    pq: 16,
    hlg: 18,
  }
  const matrix: Record<string, number> = {
    rgb: 0,
    bt709: 1,
    bt470bg: 5,
    smpte170m: 6,
    'bt2020-ncl': 9,
  }
  return {
    primaries: primaries[space?.primaries ?? ''] ?? 1,
    transfer: transfer[space?.transfer ?? ''] ?? 1,
    matrix: matrix[space?.matrix ?? ''] ?? 1,
    fullRange: space?.fullRange ?? false,
  }
}
