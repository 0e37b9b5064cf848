import { toNumber } from '../../../Fraction'
import { lowestAvcLevel } from '../../../media/codecs/h264'
import type { Control, Encoder, RawFrames } from '../Encoder'

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
 * their own rate (six clips, by 24 and 30: −0.9 to +0.5 dB, mean 0.0), which is not known yet.
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

export const x264: Encoder = {
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
  shortBelow: 0.8,
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
    ...['--output', output, '-'],
  ],
}
