import type { EncodeRun } from '../Encoder'

/** Longer than any loop. */
const NO_MORE_KEYS = 100_000

/** libvpx and libaom have one command line. */
export function vpxArguments(
  { raw, effort, control, statisticsOnly, statistics, output, threads }: EncodeRun,
  own: { readonly codec: string; readonly full: number; readonly more: readonly string[] },
): string[] {
  return [
    ...[`--codec=${own.codec}`, '--i420', '--ivf', '--quiet'],
    ...[`--width=${raw.width}`, `--height=${raw.height}`],
    `--fps=${raw.frameRate.num}/${raw.frameRate.den}`,
    ...own.more,
    ...(effort === 'quick'
      ? ['--rt', '--cpu-used=7', '--passes=1', '--lag-in-frames=0']
      : [
          ...['--good', `--cpu-used=${own.full}`, '--passes=2', '--lag-in-frames=25'],
          ...[`--pass=${statisticsOnly ? 1 : 2}`, `--fpf=${statistics}`],
        ]),
    `--kf-max-dist=${NO_MORE_KEYS}`,
    ...(control.kind === 'setting'
      ? ['--end-usage=q', `--cq-level=${Math.floor(control.setting)}`]
      : ['--end-usage=vbr', `--target-bitrate=${Math.floor(control.bitsPerSecond / 1000)}`]),
    ...['--row-mt=1', `--threads=${threads}`],
    `--output=${statisticsOnly ? '/dev/null' : output}`,
    '-',
  ]
}

/** What both are and can do. */
export const VPX_LIKE = {
  versionArguments: ['--help'],
  stream: 'ivf',
  scale: { finest: 4, coarsest: 63, step: 1 },
  finer: null,
  probed: [14, 28, 42, 56],
  // By a rate they miss by a tenth and more, and are no better at equal bytes.
  budgetBy: 'setting',
  // There a rate gives 0.7 dB more on calm clips: the first frame is not made as coarse.
  rateBeyond: 60,
  shortBelow: null,
  statisticsFor: 'all',
  fullShare: 0.5,
  slope: { still: 1, byChange: 0 },
  // With one neither seam nor quality gets better.
  leadOut: 0,
} as const
