import { ContainerError } from '../bytes/ContainerError'
import type { CodecFamily, ColourFacts } from './MediaFile'

/**
 * Names of HDR transfer functions by their code point. Source: ITU-T H.273 (07/2021), table 3; the
 * functions are those of ITU-R BT.2100.
 */
const HDR_TRANSFERS: Readonly<Record<number, string>> = { 16: 'PQ', 18: 'HLG' }

interface Coded {
  readonly family: CodecFamily
  readonly codecName: string
  readonly colour: Pick<ColourFacts, 'transfer'> | null
}

/** The name of a clip's HDR transfer function; null for SDR, and where nothing is declared. */
export function hdrOf(colour: Pick<ColourFacts, 'transfer'> | null): string | null {
  return (colour && HDR_TRANSFERS[colour.transfer]) ?? null
}

/**
 * Why a clip whose index can be read cannot be used: browsers cannot decode its codec, or its
 * colours would be wrong in delivered files. Null if it can be used. `canDecodeHevc`: only some
 * machines can.
 */
export function refusalOf(
  { family, codecName, colour }: Coded,
  canDecodeHevc: boolean,
): ContainerError | null {
  if (family === 'other' || (family === 'hevc' && !canDecodeHevc))
    return new ContainerError('media/codec-unsupported', { subject: codecName })
  const hdr = hdrOf(colour)
  return hdr === null ? null : new ContainerError('media/hdr', { subject: hdr })
}
