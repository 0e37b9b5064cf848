import { describe, expect, it } from 'vitest'
import { ProbeCurve, type ProbePoint } from '../ProbeCurve'
import type { Control, Encoder, EncodeRun } from './Encoder'
import { encoderNameSchema } from './encoderName'
import { atFullEffort } from './atFullEffort'
import { bestNames } from './bestNames'
import { changeBy } from './change'
import { encoderOf, ENCODERS } from './encoders'
import {
  planNativePass,
  type NativeDecision,
  type NativeJob,
  type NativePass,
} from './planNativePass'

const FRAMES = 250
/** An encoder as the real ones behave: bytes halve every so many steps, quality falls. */
interface Simulated {
  /** Bytes of all frames at setting 20, and the steps in which they halve. */
  readonly bytes: number
  readonly halving: number
  /** How much heavier or lighter full effort is than quick effort at a setting. */
  readonly full: number
  /** Ratio of bytes to the rate asked for, and how far a pass may be off in either direction. */
  readonly answer?: number
  readonly best?: number
  /** Decibels that full effort is better than a probe at the same bytes. */
  readonly better?: number
  /** How much changes from frame to frame; the steps in which bytes halve at full effort. */
  readonly change?: number
  readonly fullHalving?: number
  /** What it does with the first frame, by settings. */
  readonly first?: NativePass['first']
  /** Bytes of the run that makes its statistics. */
  readonly statistics?: number
}
const PLAIN = { lead: 2, share: 0.1 }

function bytesAt({ bytes, halving }: Simulated, setting: number): number {
  return bytes * 2 ** ((20 - setting) / halving)
}
const qualityAt = (setting: number, best = 52): { ssim: number; psnr: number; seen: number } => ({
  psnr: best - 2 - 0.4 * setting,
  seen: best - 3 - 0.4 * setting,
  ssim: 1 - 0.004 * 2 ** ((setting - 20) / 10) * 2 ** ((52 - best) / 6),
})

function curveOf(simulated: Simulated, settings: readonly number[]): ProbeCurve {
  const points: ProbePoint[] = settings.map((setting) => {
    const all = bytesAt(simulated, setting)
    return {
      setting,
      keyBytes: all * 0.2,
      frameBytes: (all * 0.8) / (FRAMES - 1),
      ...qualityAt(setting, simulated.best),
    }
  })
  return new ProbeCurve(points, 'quantizer')
}

/** Carries out what is planned, and gives the passes and the one kept. */
function run(
  encoder: NativeJob['encoder'] & Pick<Encoder, 'probed'>,
  goal: NativeJob['goal'],
  simulated: Simulated,
): { readonly made: NativePass[]; readonly kept: NativePass; readonly probes: number } {
  const overhead = (): number => 1_000
  let curve: ProbeCurve | null = null
  let statisticsBytes: number | null = null
  let probes = 0
  const made: NativePass[] = []
  for (let step = 0; step < 8; step++) {
    const decision: NativeDecision = planNativePass(
      {
        ...{ goal, curve, encoder, change: simulated.change ?? 0, statisticsBytes },
        ...{ frames: FRAMES, framesPerSecond: 25, overhead },
      },
      made,
    )
    if (decision.kind === 'keep') return { made, kept: made[decision.index]!, probes }
    if (decision.kind === 'statistics') {
      expect(statisticsBytes).toBeNull()
      statisticsBytes = simulated.statistics ?? 0
      continue
    }
    if (decision.kind === 'probe') {
      probes += 1
      curve = curveOf(simulated, encoder.probed)
      continue
    }
    made.push(passOf(decision.control, simulated))
  }
  throw new Error('it never ends')
}

function passOf(control: Control, simulated: Simulated): NativePass {
  const halving = simulated.fullHalving ?? simulated.halving
  const asked =
    control.kind === 'setting'
      ? bytesAt({ ...simulated, halving }, control.setting) * simulated.full
      : ((control.bitsPerSecond * FRAMES) / 25 / 8) * (simulated.answer ?? 1)
  const dataBytes = Math.round(asked)
  const setting =
    control.kind === 'setting'
      ? control.setting
      : 20 - halving * Math.log2(asked / simulated.full / simulated.bytes)
  const { best = 52, better = 0 } = simulated
  return {
    ...{ control, dataBytes, bytes: dataBytes + 1_000, first: simulated.first ?? PLAIN },
    ...qualityAt(setting, best + better),
  }
}

const budget = (bytes: number) => ({ kind: 'budget', bytes }) as const
/** A clip whose quality without visible loss would take far more than any budget here. */
const HEAVY: Simulated = { bytes: 5_000_000, halving: 6, full: 0.9 }

/** Two passes, and a third only where the second exceeds the budget. */
function expectPlanned(made: readonly NativePass[], budgetBytes: number): void {
  expect(made.length).toBeLessThanOrEqual(made[1] && made[1].bytes > budgetBytes ? 3 : 2)
}

describe('a budget near the end of a scale (vpxenc)', () => {
  const vpxenc = encoderOf('vpxenc')
  const near: Simulated = { ...HEAVY, full: vpxenc.fullShare }
  const atSixty = bytesAt(near, 60) * near.full
  it('is met by a rate, which spreads so few bytes better', () => {
    const { made, kept } = run(vpxenc, budget(atSixty * 0.9), { ...near, answer: 0.85 })
    expect(made.map(({ control }) => control.kind)).toEqual(['rate', 'rate'])
    expect(kept.bytes).toBeLessThanOrEqual(atSixty * 0.9)
    // Rates are whole kilobits a second, of which this is less than twenty.
    const kilobit = (1000 * FRAMES) / 25 / 8
    expect(kept.bytes).toBeGreaterThanOrEqual(atSixty * 0.9 * 0.98 - kilobit)
  })
  it('is met by a setting where there are finer ones', () => {
    const { made } = run(vpxenc, budget(atSixty * 1.3), near)
    expect(made.every(({ control }) => control.kind === 'setting')).toBe(true)
  })
  it.each([0.93, 0.96, 1, 1.04])('is filled where a rate comes to %s of what it says', (answer) => {
    // The first pass is by a setting, since it takes more than expected.
    const heavier = { ...near, full: near.full * 1.2, answer }
    const { made, kept } = run(vpxenc, budget(atSixty * 1.1), heavier)
    expect(made.map(({ control }) => control.kind).slice(0, 2)).toEqual(['setting', 'rate'])
    expectPlanned(made, atSixty * 1.1)
    expect(kept.bytes).toBeLessThanOrEqual(atSixty * 1.1)
    const kilobit = (1000 * FRAMES) / 25 / 8
    expect(kept.bytes).toBeGreaterThanOrEqual(atSixty * 1.1 * 0.95 - kilobit)
  })
  it('is tried by a rate where the coarsest setting takes a little more', () => {
    const coarsest = bytesAt(near, 63) * near.full
    const kinds = (share: number): string[] =>
      run(vpxenc, budget(coarsest * share), near).made.map(({ control }) => control.kind)
    expect(kinds(0.96)).toEqual(['setting', 'rate'])
    expect(kinds(0.8)).toEqual(['setting'])
  })
  it('is kept by a third pass at most where rates are missed by much', () => {
    const { made, kept } = run(vpxenc, budget(atSixty * 0.9), { ...near, answer: 1.3 })
    expect(made.length).toBeLessThanOrEqual(3)
    expect(kept.bytes).toBeLessThanOrEqual(atSixty * 0.9)
  })
})

describe('a first frame that takes much (vpxenc)', () => {
  const vpxenc = encoderOf('vpxenc')
  const kinds = (first: NativePass['first'], answer = 1) =>
    run(vpxenc, budget(200_000), { bytes: 400_000, halving: 9, full: 1, first, answer })
  it('gives way to a rate, where it is far better than the others and much of the file', () => {
    const { made, kept } = kinds({ lead: 7, share: 0.35 }, 0.853)
    expect(made.map(({ control }) => control.kind)).toEqual(['setting', 'rate'])
    expect(kept.control.kind).toBe('rate')
    expect(kept.bytes).toBeLessThanOrEqual(200_000)
    expect(kept.bytes).toBeGreaterThanOrEqual(200_000 * 0.98)
  })
  it('has a third pass where that takes more of its rate than expected', () => {
    const { made, kept } = kinds({ lead: 7, share: 0.35 }, 1)
    expect(made.map(({ control }) => control.kind)).toEqual(['setting', 'rate', 'rate'])
    expect(kept.bytes).toBeLessThanOrEqual(200_000)
    expect(kept.bytes).toBeGreaterThanOrEqual(200_000 * 0.98)
  })
  it.each([
    ['only better', { lead: 7, share: 0.2 }],
    ['only large', { lead: 4, share: 0.35 }],
  ])('stays where it is %s', (_, first) =>
    expect(kinds(first).made.every(({ control }) => control.kind === 'setting')).toBe(true),
  )
  it('takes no more than what shows no loss', () => {
    const light: Simulated = { bytes: 60_000, halving: 9, full: 0.9 }
    const { made, kept } = run(vpxenc, budget(2_000_000), {
      ...{ ...light, first: { lead: 7, share: 0.35 } },
    })
    expect(made.at(-1)!.control.kind).toBe('rate')
    expect(kept.seen).toBeGreaterThanOrEqual(42)
    expect(kept.seen).toBeLessThan(43.5)
  })
})

describe('a budget by rate (x264)', () => {
  const x264 = encoderOf('x264')
  it('takes one pass where the rate is met', () => {
    const { made, kept, probes } = run(x264, budget(300_000), { ...HEAVY, answer: 1.003 })
    expect([made.length, probes]).toEqual([1, 1])
    expect(kept.bytes).toBeLessThanOrEqual(300_000)
    expect(kept.bytes).toBeGreaterThanOrEqual(300_000 * 0.98)
  })
  it.each([0.8, 0.95, 1.02, 1.15, 1.6])(
    'fills it with the second pass where the first came to %s of its rate',
    (answer) => {
      const { made, kept } = run(x264, budget(300_000), { ...HEAVY, answer })
      expect(made.length).toBe(2)
      expect(kept.bytes).toBeLessThanOrEqual(300_000)
      expect(kept.bytes).toBeGreaterThanOrEqual(300_000 * 0.98)
    },
  )
  it('makes a third pass only where the second is over as well', () => {
    const over = (bytes: number): NativePass => ({
      control: { kind: 'rate', bitsPerSecond: 200_000 },
      dataBytes: bytes - 1_000,
      bytes,
      ssim: 0.9,
      seen: 36,
      first: PLAIN,
    })
    const plan = (...made: NativePass[]) =>
      planNativePass(
        {
          goal: budget(250_000),
          curve: curveOf(HEAVY, x264.probed),
          encoder: x264,
          statisticsBytes: null,
          frames: FRAMES,
          framesPerSecond: 25,
          change: 0,
          overhead: () => 1_000,
        },
        made,
      )
    expect(plan(over(270_000), over(251_000)).kind).toBe('encode')
    expect(plan(over(270_000), over(230_000))).toEqual({ kind: 'keep', index: 1 })
    // One that is far below it does not fill it, one that is close does.
    expect(plan(over(230_000), over(251_000)).kind).toBe('encode')
    expect(plan(over(246_000), over(251_000))).toEqual({ kind: 'keep', index: 0 })
    expect(plan(over(270_000), over(251_000), over(252_000))).toEqual({ kind: 'keep', index: 1 })
  })
  it.each([0.6, 0.8, 1, 1.3])(
    'takes what a quality without visible loss takes, where a file is %s times as heavy as its probe',
    (full) => {
      const light: Simulated = { bytes: 40_000, halving: 6, full: full * x264.fullShare }
      const { made, kept, probes } = run(x264, budget(300_000), light)
      expect(probes).toBe(1)
      expect(made.length).toBeLessThanOrEqual(2)
      expect(made.every(({ control }) => control.kind === 'rate')).toBe(true)
      expect(kept.seen).toBeGreaterThanOrEqual(42)
      expect(kept.seen).toBeLessThan(43)
    },
  )
  it.each([
    [-2, 42.4],
    [2, 43.2],
    [5, 44.8],
  ])(
    'comes close to that by its second pass where two passes are %s dB better than a probe',
    (better, most) => {
      const light: Simulated = { bytes: 40_000, halving: 6, full: 0.95, better }
      const { made, kept } = run(x264, budget(300_000), light)
      expect(made.length).toBe(2)
      expect(kept.seen).toBeGreaterThanOrEqual(42)
      expect(kept.seen).toBeLessThan(most)
    },
  )
  describe('without a probe', () => {
    /** What a file without visible loss takes is about 1.5 times the statistics here, or more. */
    const busy: Simulated = { ...HEAVY, statistics: 3_000_000 }
    it.each([
      ['met', 0.995, 1],
      ['missed', 0.9, 2],
      ['exceeded', 1.2, 2],
    ])('fills a budget that is certainly short, its rate %s', (_, answer, passes) => {
      const { made, kept, probes } = run(x264, budget(300_000), { ...busy, answer })
      expect([probes, made.length]).toEqual([0, passes])
      expect(kept.bytes).toBeLessThanOrEqual(300_000)
      expect(kept.bytes).toBeGreaterThanOrEqual(300_000 * 0.98)
    })
    it('is not planned where a budget may be more than is needed', () =>
      expect(run(x264, budget(2_900_000), busy).probes).toBe(1))
    it('is made up for where no loss shows all the same', () => {
      const light: Simulated = { bytes: 40_000, halving: 6, full: 0.8, statistics: 900_000 }
      const { made, kept, probes } = run(x264, budget(60_000), light)
      expect([probes, made.length]).toEqual([1, 2])
      expect(kept.seen).toBeGreaterThanOrEqual(42)
      expect(kept.bytes).toBeLessThan(50_000)
    })
    it('is not planned for a quality, nor once a rate was refused', () => {
      const job = { ...{ encoder: x264, curve: null, frames: FRAMES }, statisticsBytes: 3_000_000 }
      const rest = { ...{ framesPerSecond: 25, change: 0 }, overhead: () => 1_000 }
      const kindOf = (more: Partial<NativeJob>): string =>
        planNativePass({ ...job, ...rest, goal: budget(300_000), ...more }, []).kind
      expect(kindOf({})).toBe('encode')
      expect(kindOf({ statisticsBytes: null })).toBe('statistics')
      const curve = curveOf(HEAVY, x264.probed)
      expect(kindOf({ statisticsBytes: null, curve })).toBe('statistics')
      expect(kindOf({ curve })).toBe('encode')
      expect(kindOf({ goal: { kind: 'quality', ssim: 0.96 } })).toBe('probe')
      expect(kindOf({ encoder: { ...x264, budgetBy: 'setting' } })).toBe('probe')
      expect(kindOf({ encoder: encoderOf('vpxenc'), statisticsBytes: null })).toBe('probe')
    })
  })
  it('asks for whole kilobits, up where that fits, and never twice for the same', () => {
    const rates = (bytes: number, answer: number): (number | null)[] =>
      run(x264, budget(bytes), { ...HEAVY, statistics: 3_000_000, answer }).made.map(
        ({ control }) => (control.kind === 'rate' ? control.bitsPerSecond : null),
      )
    // 10 s: 0.8 of 25 kB are 19,820 bits a second, of which 20 kilobits are 0.9 % more.
    expect(rates(26_000, 0.995)).toEqual([19_000, 20_000])
    expect(rates(26_100, 0.995)).toEqual([20_000])
    expect(rates(26_100, 0.975)).toEqual([20_000])
  })
  it('goes on by settings where it has refused a rate', () => {
    const over: NativePass = {
      control: { kind: 'rate', bitsPerSecond: 200_000 },
      ...{ dataBytes: 250_000, bytes: 251_000, ssim: 0.9, seen: 36, first: PLAIN },
    }
    const decision = planNativePass(
      {
        goal: budget(200_000),
        curve: curveOf(HEAVY, x264.probed),
        ...{ encoder: { ...x264, budgetBy: 'setting' }, change: 0, statisticsBytes: null },
        ...{ frames: FRAMES, framesPerSecond: 25, overhead: () => 1_000 },
      },
      [over],
    )
    expect(decision).toMatchObject({ kind: 'encode', control: { kind: 'setting' } })
  })
  it('fills a budget that is less than that', () => {
    const light: Simulated = { bytes: 40_000, halving: 6, full: 0.9 }
    const { kept } = run(x264, budget(40_000), light)
    expect(kept.bytes).toBeLessThanOrEqual(40_000)
    expect(kept.bytes).toBeGreaterThanOrEqual(40_000 * 0.98)
  })
})

describe.each([
  ['svt-av1', 1.03],
  ['vpxenc', 0.75],
  ['aomenc', 1],
] as const)('a budget by settings (%s)', (program, falls) => {
  const encoder = encoderOf(program)
  /** What one step of the scale changes at most. */
  const step = (halving: number): number => 1 - 2 ** (-encoder.scale.step / halving)
  it.each([
    ['as the first guess says', encoder.fullShare],
    ['lighter than it', encoder.fullShare * 0.6],
    ['heavier than it', encoder.fullShare * 1.7],
  ])('is kept where full effort is %s', (_, full) => {
    // Calm clips, by real encoders: bytes fall by so much of a probe's slope.
    const simulated = { bytes: 2_000_000, halving: 9, fullHalving: 9 / falls, full }
    const { made, kept, probes } = run(encoder, budget(200_000), simulated)
    expect(probes).toBe(1)
    expectPlanned(made, 200_000)
    expect(kept.bytes).toBeLessThanOrEqual(200_000)
    expect(kept.bytes).toBeGreaterThanOrEqual(200_000 * (1 - step(9 / falls) - 0.02))
  })
  it('ends at a quality without visible loss where bytes are left', () => {
    const { kept } = run(encoder, budget(2_000_000), { bytes: 60_000, halving: 9, full: 0.9 })
    expect(kept.seen).toBeGreaterThanOrEqual(42)
    expect(kept.seen).toBeLessThan(43.5)
  })
  it('keeps the smallest there is where nothing is small enough', () => {
    const { made, kept } = run(encoder, budget(3_000), { bytes: 9e6, halving: 9, full: 1 })
    expect(kept.bytes).toBe(Math.min(...made.map(({ bytes }) => bytes)))
    expect(kept.control).toEqual({ kind: 'setting', setting: 63 })
  })
  it('never makes the same pass twice', () => {
    for (const full of [0.4, 0.7, 1, 1.6, 3]) {
      const { made } = run(encoder, budget(150_000), { bytes: 2e6, halving: 7, full })
      const controls = made.map(({ control }) => JSON.stringify(control))
      expect(new Set(controls).size).toBe(controls.length)
    }
  })
})

describe('a budget of a clip where all changes from frame to frame (SVT-AV1)', () => {
  const svt = encoderOf('svt-av1')
  it('is filled though bytes fall more slowly at full effort than in a probe', () => {
    const rain: Simulated = {
      ...{ bytes: 4_000_000, halving: 7, full: 0.95, change: 0.5 },
      fullHalving: 7 / 0.84,
    }
    const { made, kept } = run(svt, budget(900_000), rain)
    expect(made).toHaveLength(2)
    expect(kept.bytes).toBeLessThanOrEqual(900_000)
    expect(kept.bytes).toBeGreaterThanOrEqual(900_000 * 0.97)
  })
})

describe('how much changes from frame to frame', () => {
  const size = { width: 1280, height: 720 }
  const svt = encoderOf('svt-av1')
  const changeOf = (keyBytes: number, frameBytes: number): number =>
    changeBy(
      new ProbeCurve(
        svt.probed.map((setting) => ({ setting, keyBytes, frameBytes, ...qualityAt(setting) })),
        'quantizer',
      ),
      svt,
      size,
    )
  it('is what a frame takes of the bytes of a key frame', () =>
    expect(changeOf(22_000, 11_000)).toBeCloseTo(0.5, 6))
  it('is nothing on a calm clip, though it fades in from black', () => {
    expect(changeOf(5_000, 200)).toBe(0)
    expect(changeOf(60, 900)).toBe(0)
    expect(changeOf(1, 1)).toBe(0)
  })
})

describe('a quality', () => {
  it.each(ENCODERS)('is reached in two passes with $program', (encoder) => {
    const { made, kept } = run(
      encoder,
      { kind: 'quality', ssim: 0.98 },
      { bytes: 900_000, halving: 8, full: 1, best: 50 },
    )
    expect(made.length).toBeLessThanOrEqual(2)
    expect(kept.ssim).toBeGreaterThanOrEqual(0.978)
    expect(kept.ssim).toBeLessThan(0.986)
  })
})

describe('the command line of an encoder', () => {
  const order = (more: Partial<EncodeRun> = {}): EncodeRun => ({
    raw: {
      width: 1280,
      height: 720,
      frameRate: { num: 30_000, den: 1001 },
      frames: 300,
      loops: true,
      colour: { primaries: 1, transfer: 1, matrix: 1 },
    },
    effort: 'full',
    control: { kind: 'setting', setting: 30.5 },
    statisticsOnly: false,
    leadOut: 0,
    change: 0,
    statistics: '/x/statistics',
    output: '/x/stream',
    threads: 2,
    ...more,
  })
  it('asks x264 for closed groups, a level that phones accept, and limited BT.709', () => {
    const line = encoderOf('x264').arguments(order()).join(' ')
    for (const part of [
      '--input-res 1280x720 --fps 30000/1001',
      '--profile high --level 4.1 --keyint infinite --range tv',
      '--colorprim bt709 --transfer bt709 --colormatrix bt709',
      '--crf 30.5',
    ])
      expect(line).toContain(part)
    expect(line).not.toContain('open-gop')
    expect(line.endsWith('--output /x/stream -')).toBe(true)
  })
  it('gives x264 a higher level only where pictures are larger than phones take', () => {
    const large = order({ raw: { ...order().raw, width: 2560, height: 1440 } })
    expect(encoderOf('x264').arguments(large)).toContain('5.0')
  })
  it('reads and writes the same statistics in both passes of a rate', () => {
    const control = { kind: 'rate', bitsPerSecond: 812_345 } as const
    const [first, second] = [true, false].map((statisticsOnly) =>
      encoderOf('x264').arguments(order({ control, statisticsOnly })).join(' '),
    )
    // They do not wait for a rate.
    expect(first).toContain('--pass 1 --crf 27 --stats /x/statistics')
    expect(first).not.toContain('--bitrate')
    expect(first).toContain('--output /x/stream')
    expect(second).toContain('--pass 2 --ratetol 0.1 --bitrate 812 --stats /x/statistics')
  })
  it('lets x264 plan short clips as it does, and keeps longer ones close to their rate', () => {
    const control = { kind: 'rate', bitsPerSecond: 812_345 } as const
    const tolerance = (frames: number): string | undefined =>
      /--ratetol (\S+)/.exec(
        encoderOf('x264')
          .arguments(order({ control, raw: { ...order().raw, frames } }))
          .join(' '),
      )?.[1]
    expect(tolerance(60)).toBe('1')
    expect(tolerance(90)).toBe('0.1')
    expect(tolerance(240)).toBe('0.1')
  })
  it('makes the first frame of x264 finer, and lets a loop not end worse than it begins', () => {
    const { raw } = order()
    const line = (more: Partial<EncodeRun>): string =>
      encoderOf('x264').arguments(order(more)).join(' ')
    for (const control of [
      { kind: 'setting', setting: 24 },
      { kind: 'rate', bitsPerSecond: 812_345 },
    ] as const)
      expect(line({ control })).toContain('--ipratio 2.6 --zones 285,299,b=1.25')
    expect(line({ raw: { ...raw, loops: false } })).not.toContain('zones')
    expect(line({ raw: { ...raw, frames: 59 } })).not.toContain('zones')
    expect(line({ raw: { ...raw, frames: 60 } })).toContain('--zones 45,59,b=1.25')
  })
  it('gives SVT-AV1 a quarter of a step by offsets of its quantizer', () => {
    const line = encoderOf('svt-av1').arguments(order()).join(' ')
    expect(line).toContain('--crf 30 --use-fixed-qindex-offsets 2 --qindex-offsets [2,2,2,2,2,2]')
    const whole = order({ control: { kind: 'setting', setting: 31 } })
    expect(encoderOf('svt-av1').arguments(whole).join(' ')).not.toContain('offsets')
  })
  it('takes vpxenc part of the way to the next level by what bytes weigh', () => {
    const line = (setting: number): string =>
      encoderOf('vpxenc')
        .arguments(order({ control: { kind: 'setting', setting } }))
        .join(' ')
    expect(line(30.5)).toContain('--cq-level=30 ')
    for (const frames of ['inter', 'arf', 'key'])
      expect(line(30.5)).toContain(`--rd-mult-${frames}-qp-fac=1068/1000`)
    expect(line(30)).not.toContain('rd-mult')
  })
  it('gives SVT-AV1 fewer layers the more changes from frame to frame, but not in a probe', () => {
    const svt = (more: Partial<EncodeRun>): string =>
      encoderOf('svt-av1').arguments(order(more)).join(' ')
    const layers = (more: Partial<EncodeRun>): string | undefined =>
      / --hierarchical-levels (\d)/.exec(svt(more))?.[1]
    expect([0, 0.05, 0.1, 0.3, 0.5].map((change) => layers({ change }))).toEqual([
      ...['5', '5', '3', '3', '2'],
    ])
    expect(layers({ change: 0.5, effort: 'quick' })).toBe('5')
    const setting = { kind: 'setting', setting: 30 } as const
    expect(svt({ change: 0.5, control: setting })).toContain('--key-frame-qindex-offset 60')
    expect(svt({ change: 0.3, control: setting })).not.toContain('offset')
  })
  it('keeps vpxenc from starving a first frame where it goes by a rate', () => {
    const control = { kind: 'rate', bitsPerSecond: 300_000 } as const
    expect(encoderOf('vpxenc').arguments(order({ control }))).toContain('--bias-pct=65')
    expect(encoderOf('vpxenc').arguments(order()).join(' ')).not.toContain('bias-pct')
  })
  it('lets no encoder add key frames at intervals', () => {
    expect(encoderOf('svt-av1').arguments(order())).toContain('-1')
    for (const program of ['vpxenc', 'aomenc'] as const)
      expect(encoderOf(program).arguments(order())).toContain('--kf-max-dist=100000')
  })
  it('is quick for a probe, and then needs no statistics', () => {
    for (const program of ['vpxenc', 'aomenc'] as const) {
      const line = encoderOf(program).arguments(order({ effort: 'quick' }))
      expect(line).toContain('--passes=1')
      expect(line.join(' ')).not.toContain('--fpf')
    }
  })
  it('passes nothing of a clip but numbers: no part of it is a name or a text', () => {
    for (const encoder of ENCODERS)
      for (const part of encoder.arguments(order())) expect(part).toMatch(/^[\w./:=,[\]-]+$/)
  })
})

describe('encoders that are there', () => {
  it('are taken in their order', () => {
    const [svt, aom, sharp] = ['svt-av1 1.4.1', 'aomenc 3.6.0', 'sharp 0.35.5']
    expect(bestNames([aom, sharp, svt])).toEqual({
      ...{ av1: svt, vp9: null, h264: null, pictures: sharp },
    })
    expect(bestNames([aom])).toMatchObject({ av1: aom, pictures: null })
    // Machines may have several versions of one.
    expect(bestNames(['svt-av1 1.10.0', 'svt-av1 1.9.2', svt]).av1).toBe('svt-av1 1.10.0')
  })
  it('are expected to take fewer bytes at full effort than in a probe', () => {
    const point = { setting: 20, keyBytes: 1000, frameBytes: 100, ssim: 0.9, psnr: 40 }
    const facts = {
      ...({ kind: 'probe', steering: 'quantizer', bounds: { finest: 4, coarsest: 63 } } as const),
      ...{ points: [point], anchorEvery: null, parts: [], frames: 50, seconds: 1 },
    }
    expect(atFullEffort(facts, null)).toBe(facts)
    expect(atFullEffort(facts, 'vpxenc 1.12.0').points[0]).toEqual({
      ...{ ...point, keyBytes: 620, frameBytes: 62 },
    })
  })
  it('are named by program and version', () => {
    expect(encoderNameSchema.safeParse('x264 0.164.3095').success).toBe(true)
    expect(encoderNameSchema.safeParse('x264').success).toBe(false)
    expect(encoderNameSchema.safeParse('x264 1; rm').success).toBe(false)
  })
})
