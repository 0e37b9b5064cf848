import { lowestAvcLevel } from './h264'
import { lowestVp9Level } from './vp9'

/**
 * The strings to ask a decoder for, the stream's own first. Decoders refuse streams that declare an
 * impossible level although they can decode them: next comes the same profile with a level that
 * fits size and rate, then with a high one. Levels after RFC 6381's forms.
 */
export function saneCodecStrings(
  codec: string,
  width: number,
  height: number,
  framesPerSecond: number,
): string[] {
  const others = (): string[] => {
    const avc = /^(avc[1-4]\.[0-9a-f]{4})[0-9a-f]{2}$/i.exec(codec)
    if (avc)
      return [lowestAvcLevel(width, height, framesPerSecond, 0), 51, 52].map(
        (level) => `${avc[1]}${level.toString(16).padStart(2, '0')}`,
      )
    const vp9 = /^(vp09\.\d\d)\.\d\d(\..*)$/.exec(codec)
    if (vp9)
      return [lowestVp9Level(width, height, framesPerSecond, 0), 51, 52].map(
        (level) => `${vp9[1]}.${level}${vp9[2]}`,
      )
    const av1 = /^(av01\.\d)\.\d\d[MH](\..*)$/.exec(codec)
    if (av1) return ['08', '13', '16'].map((level) => `${av1[1]}.${level}M${av1[2]}`)
    const hevc = /^(h(?:vc1|ev1)\.[A-C]?\d+\.[0-9a-f]+)\.[LH]\d+(.*)$/i.exec(codec)
    if (hevc) return ['L120', 'L153'].map((level) => `${hevc[1]}.${level}${hevc[2]}`)
    return []
  }
  return [...new Set([codec, ...others()])]
}
