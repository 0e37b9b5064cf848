import { toNumber } from '../../Fraction'
import { lowestAvcLevel } from '../../media/codecs/h264'
import type { Family } from '../families'
import type { Control, Encoder, EncodeRun, Program, RawFrames } from './Encoder'

/*
 * The encoders. Settings were chosen on drawn clips and camera clips: docs/weight-measured.md. All
 * make closed groups of frames that begin with the loop's first frame, with no further key frames
 * but at cuts.
 */

/** Longer than any loop. */
const NO_MORE_KEYS = 100_000

/**
 * Names of code points. Source: ISO/IEC 23091-2, tables 2 to 4, as x264 spells them; what it has no
 * name for is not told.
 */
const X264_PRIMARIES: Readonly<Record<number, string>> = {
  1: 'bt709',
  4: 'bt470m',
  5: 'bt470bg',
  6: 'smpte170m',
  7: 'smpte240m',
  9: 'bt2020',
  12: 'smpte432',
}
const X264_TRANSFERS: Readonly<Record<number, string>> = {
  1: 'bt709',
  6: 'smpte170m',
  8: 'linear',
  13: 'iec61966-2-1',
}
const X264_MATRICES: Readonly<Record<number, string>> = {
  1: 'bt709',
  5: 'bt470bg',
  6: 'smpte170m',
  9: 'bt2020nc',
}

/** The level that phones accept for pictures up to 1080p; a higher one where it must be. */
const PHONE_LEVEL = 41

function avcLevel({ width, height, frameRate }: RawFrames): string {
  const level = Math.max(PHONE_LEVEL, lowestAvcLevel(width, height, toNumber(frameRate), 0))
  return `${Math.floor(level / 10)}.${level % 10}`
}

/**
 * How far x264 may stray from its plan. With its usual 1 calm clips miss their rate by a tenth,
 * with 0.01 the end of a busy one is starved. Clips of 2 s lose up to 1 dB by 0.1, from 3 s on none
 * do: short ones keep the usual tolerance, and a second pass corrects the rate.
 */
function rateTolerance({ frames, frameRate }: RawFrames): string {
  return frames / toNumber(frameRate) < STEADY_SECONDS ? '1' : '0.1'
}
const STEADY_SECONDS = 2.9

/**
 * How much finer than what refers to it the first frame is. With the usual 1.4 it lay up to 4 dB
 * below the mean; 2.6 gives 0.1 to 1.0 dB more over the whole loop at equal bytes, 3.4 no more.
 * Source: docs/weight.md, encoder programs.
 */
const FIRST_FRAME_RATIO = '2.6'
/**
 * No frame refers to the last ones, and they end up to 3 dB below the mean: at the loop point the
 * picture would become sharp at once. They get a quarter as much again, where the loop is long
 * enough for it to cost the others little; half as much costs the whole loop up to 0.5 dB.
 */
function loopEnd({ loops, frames, frameRate }: RawFrames): string[] {
  const last = Math.round(toNumber(frameRate) * LOOP_END_SECONDS)
  return loops && frames >= MIN_LOOP_ENDS * last
    ? ['--zones', `${frames - last},${frames - 1},b=1.25`]
    : []
}
const LOOP_END_SECONDS = 0.5
const MIN_LOOP_ENDS = 4

/**
 * The quality at which x264 makes its statistics. Later passes are about as good as by those of
 * their own rate (seven clips: −0.9 to +0.4 dB, mean 0.0), which is not known yet.
 */
const X264_STATISTICS = '27'

function x264Control(control: Control, statisticsOnly: boolean, raw: RawFrames): string[] {
  if (statisticsOnly) return ['--pass', '1', '--crf', X264_STATISTICS]
  return control.kind === 'setting'
    ? ['--crf', control.setting.toFixed(1)]
    : [
        ...['--pass', '2', '--ratetol', rateTolerance(raw)],
        ...['--bitrate', String(Math.max(1, Math.floor(control.bitsPerSecond / 1000)))],
      ]
}

const named = (option: string, name: string | undefined): string[] =>
  name === undefined ? [] : [option, name]

const x264: Encoder = {
  program: 'x264',
  family: 'h264',
  command: 'x264',
  versionArguments: ['--version'],
  versionPattern: /x264 (\d+\.\d+\.\d+)/,
  stream: 'annexb',
  scale: { finest: 10, coarsest: 48, step: 0.1 },
  finer: null,
  probed: [20, 31, 42],
  budgetBy: 'rate',
  rateBeyond: null,
  statisticsFor: 'rate',
  // Without visible loss: 0.70 to 0.78 on dusk, aurora and a camera's launch, 0.95 on the harbour.
  fullShare: 0.82,
  slope: { still: 1, byChange: 0 },
  leadOut: 0,
  arguments: ({ raw, effort, control, statisticsOnly, statistics, output, threads }) => [
    ...['--demuxer', 'raw', '--input-csp', 'i420', '--input-depth', '8'],
    ...['--input-res', `${raw.width}x${raw.height}`],
    ...['--fps', `${raw.frameRate.num}/${raw.frameRate.den}`],
    ...['--preset', effort === 'quick' ? 'veryfast' : 'veryslow', '--profile', 'high'],
    ...['--level', avcLevel(raw), '--keyint', 'infinite', '--range', 'tv'],
    ...(effort === 'full' ? ['--ipratio', FIRST_FRAME_RATIO, ...loopEnd(raw)] : []),
    ...named('--colorprim', X264_PRIMARIES[raw.colour.primaries]),
    ...named('--transfer', X264_TRANSFERS[raw.colour.transfer]),
    ...named('--colormatrix', X264_MATRICES[raw.colour.matrix]),
    ...x264Control(control, statisticsOnly, raw),
    ...(statisticsOnly || control.kind === 'rate' ? ['--stats', statistics] : []),
    ...['--threads', String(threads), '--log-level', 'error', '--no-progress'],
    ...['--output', statisticsOnly ? '/dev/null' : output, '-'],
  ],
}

/** libvpx and libaom have one command line. */
function vpxArguments(
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

/** Names of matrices as libvpx spells them. */
const VPX_SPACES: Readonly<Record<number, string>> = {
  1: 'bt709',
  5: 'bt601',
  6: 'smpte170',
  7: 'smpte240',
  9: 'bt2020',
}

/** What both are and can do. */
const VPX_LIKE = {
  versionArguments: ['--help'],
  stream: 'ivf',
  scale: { finest: 4, coarsest: 63, step: 1 },
  finer: null,
  probed: [14, 28, 42, 56],
  // By a rate they miss by a tenth and more, and are no better at equal bytes.
  budgetBy: 'setting',
  // There a rate gives 0.7 dB more on calm clips: the first frame is not made as coarse.
  rateBeyond: 60,
  statisticsFor: 'all',
  fullShare: 0.5,
  slope: { still: 1, byChange: 0 },
  // With one neither seam nor quality gets better.
  leadOut: 0,
} as const

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

const vpxenc: Encoder = {
  ...VPX_LIKE,
  finer: { knownBy: /--rd-mult-inter-qp-fac/, step: 1 / 4 },
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

const aomenc: Encoder = {
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
  { from: 0.4, layers: 2, coarserFirst: 32 },
  { from: 0.08, layers: 3, coarserFirst: 0 },
  { from: 0, layers: 5, coarserFirst: 0 },
] as const

const svtAv1: Encoder = {
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

/** All encoders, those that are taken first at the front. */
export const ENCODERS: readonly Encoder[] = [svtAv1, aomenc, vpxenc, x264]

/** An encoder by the name of its program. */
export function encoderOf(program: Program): Encoder {
  return ENCODERS.find((each) => each.program === program)!
}

/** The Debian packages with the encoder that is taken first for each format. */
export const DEBIAN_PACKAGES: Readonly<Record<Family, string>> = {
  av1: 'svt-av1',
  vp9: 'vpx-tools',
  h264: 'x264',
}
