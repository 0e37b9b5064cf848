import type { Encoder } from '../Encoder'
import { vpxArguments, VPX_LIKE } from './vpxLike'

/** Names of matrices as libvpx spells them. */
const VPX_SPACES: Readonly<Record<number, string>> = {
  1: 'bt709',
  5: 'bt601',
  6: 'smpte170',
  7: 'smpte240',
  9: 'bt2020',
}

/** The weight of bytes against loss grows by so much from one of libvpx's levels to the next. */
const VPX_LEVEL_WEIGHT = 1.14
/**
 * How freely libvpx gives sections different rates by a rate, in percent. With its usual 50 the
 * first frame of a noisy clip lay 4.5 dB below the mean, with 65 it is 2.6.
 */
const VPX_BIAS = 65

/**
 * What takes libvpx from a level part of the way to the next, which saves 3 to 7 % of the bytes:
 * bytes weigh more against loss. As good at equal bytes as the levels are.
 */
function betweenLevels(part: number): string[] {
  if (part === 0) return []
  const weight = `${Math.round(1000 * VPX_LEVEL_WEIGHT ** part)}/1000`
  return [
    '--use-vizier-rc-params=1',
    ...['inter', 'arf', 'key'].map((frames) => `--rd-mult-${frames}-qp-fac=${weight}`),
  ]
}

export const vpxenc: Encoder = {
  ...VPX_LIKE,
  finer: { knownBy: /--rd-mult-inter-qp-fac/, step: 1 / 4 },
  // 0.4 to 1.7: calm drawn clips least, noisy ones of cameras most.
  fullShare: 0.62,
  // 0.70 to 0.81 on calm clips, 1.04 and 0.95 on busy ones, 1.10 on rain.
  slope: { still: 0.72, byChange: 1.2 },
  program: 'vpxenc',
  family: 'vp9',
  command: 'vpxenc',
  versionPattern: /VP9 Encoder v(\d+\.\d+\.\d+)/,
  arguments: (run) =>
    vpxArguments(run, {
      codec: 'vp9',
      full: 1,
      more: [
        ...(VPX_SPACES[run.raw.colour.matrix]
          ? [`--color-space=${VPX_SPACES[run.raw.colour.matrix]}`]
          : []),
        ...(run.effort === 'full' ? ['--auto-alt-ref=6'] : []),
        ...(run.control.kind === 'setting'
          ? betweenLevels(run.control.setting % 1)
          : [`--bias-pct=${VPX_BIAS}`]),
      ],
    }),
}
