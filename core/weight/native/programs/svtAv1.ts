import type { Encoder } from '../Encoder'

/** A quality of SVT-AV1 is 4 steps of the quantizer's index; offsets give those between. */
const SVT_OFFSETS = 4
/** Layers of its pyramid, each of which has an offset. */
const SVT_LAYERS = 6

/**
 * Layers beyond the base, by how much changes from frame to frame: its usual 5 are best for calm
 * clips. Where much changes, fewer give up to 0.3 dB more at equal bytes, and motion starts after
 * fewer bytes, since the third frame waits for one of each layer. With 2 the first frame is 5 dB
 * above the mean, of which the others have nothing: it is made coarser by so many steps of the
 * quantizer. Source: docs/weight.md, encoder programs.
 */
const SVT_LAYERS_BY_CHANGE = [
  { from: 0.4, layers: 2, coarserFirst: 60 },
  { from: 0.08, layers: 3, coarserFirst: 0 },
  { from: 0, layers: 5, coarserFirst: 0 },
] as const

export const svtAv1: Encoder = {
  program: 'svt-av1',
  family: 'av1',
  command: 'SvtAv1EncApp',
  versionArguments: ['--version'],
  versionPattern: /SVT-AV1 v(\d+\.\d+\.\d+)/,
  stream: 'ivf',
  scale: { finest: 4, coarsest: 63, step: 1 / SVT_OFFSETS },
  finer: null,
  probed: [22, 29, 36, 44, 54],
  budgetBy: 'setting',
  rateBeyond: null,
  shortBelow: null,
  statisticsFor: 'none',
  fullShare: 0.95,
  // 1.0 to 1.08 on calm clips, 0.93 and 0.87 on busy ones, 0.85 on rain.
  slope: { still: 1.04, byChange: -0.5 },
  leadOut: 1,
  arguments: ({ raw, effort, control, change, output, threads }) => {
    if (control.kind !== 'setting') throw new RangeError('SVT-AV1 is asked for a quality')
    const whole = Math.floor(control.setting)
    const offset = Math.round((control.setting - whole) * SVT_OFFSETS)
    const offsets = Array.from({ length: SVT_LAYERS }, () => offset).join(',')
    const known = effort === 'full' ? change : 0
    const { layers, coarserFirst } = SVT_LAYERS_BY_CHANGE.find(({ from }) => known >= from)!
    return [
      ...['-i', 'stdin', '-w', String(raw.width), '-h', String(raw.height)],
      ...['--fps-num', String(raw.frameRate.num), '--fps-denom', String(raw.frameRate.den)],
      ...['--preset', effort === 'quick' ? '10' : '5', '--keyint', '-1', '--irefresh-type', '2'],
      ...['--crf', String(whole)],
      ...(offset > 0 || coarserFirst > 0
        ? ['--use-fixed-qindex-offsets', '2', '--qindex-offsets', `[${offsets}]`]
        : []),
      ...['--hierarchical-levels', String(layers)],
      ...(coarserFirst > 0 ? ['--key-frame-qindex-offset', String(coarserFirst)] : []),
      ...['--color-primaries', String(raw.colour.primaries)],
      ...['--transfer-characteristics', String(raw.colour.transfer)],
      ...['--matrix-coefficients', String(raw.colour.matrix), '--color-range', '0'],
      ...['--lp', String(threads), '--no-progress', '1', '-b', output],
    ]
  },
}
