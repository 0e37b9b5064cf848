import type { Encoder } from '../Encoder'
import { vpxArguments, VPX_LIKE } from './vpxLike'

/** Code points as libaom spells them. */
const AOM_PRIMARIES: Readonly<Record<number, string>> = {
  1: 'bt709',
  5: 'bt470bg',
  6: 'bt601',
  9: 'bt2020',
  12: 'smpte432',
}
const AOM_TRANSFERS: Readonly<Record<number, string>> = { 1: 'bt709', 6: 'bt601', 13: 'srgb' }
const AOM_MATRICES: Readonly<Record<number, string>> = {
  1: 'bt709',
  5: 'bt470bg',
  6: 'bt601',
  9: 'bt2020ncl',
}

export const aomenc: Encoder = {
  ...VPX_LIKE,
  program: 'aomenc',
  family: 'av1',
  command: 'aomenc',
  versionPattern: /AV1 Encoder v(\d+\.\d+\.\d+)/,
  arguments: (run) => {
    const { primaries, transfer, matrix } = run.raw.colour
    const told = [
      ['--color-primaries', AOM_PRIMARIES[primaries]],
      ['--transfer-characteristics', AOM_TRANSFERS[transfer]],
      ['--matrix-coefficients', AOM_MATRICES[matrix]],
    ]
    return vpxArguments(run, {
      codec: 'av1',
      full: 4,
      more: told.flatMap(([option, name]) => (name ? [`${option}=${name}`] : [])),
    })
  },
}
