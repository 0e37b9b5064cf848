import { existsSync } from 'node:fs'
import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium, type Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ClipRecipe } from '../core/backdrop/recipe'
import { memorySource } from '../core/bytes/ByteSource'
import { plainSequence } from '../core/kinds/footage/footageSequence'
import { presentationOf } from '../core/media/presentation'
import { readMedia } from '../core/media/readMedia'
import type { Encoder, EncodeRun } from '../core/weight/native/Encoder'
import type { WeightGoal } from '../core/weight/passes'
import { encoderOf } from '../core/weight/native/encoders'
import { encodeClip, type EncodedClip } from '../encoders/encodeClip'
import { pictureEncoder } from '../encoders/encodePicture'
import { i420Bytes } from '../core/picture/I420'
import { installedEncoders, type InstalledEncoder } from '../encoders/installed'
import { EncoderFailure, runEncoder } from '../encoders/runEncoder'
import { CHROMIUM, RenderBrowser } from '../headless/RenderBrowser'
import { CLIPS, footageManifest, plays, serveFolder, telon, telonWith } from './harness'

/* Encoder programs: what is made with them, and what happens where they are missing or fail. */

const CLIP = join(CLIPS, 'viaduct-crossing.mp4')
const installed = await installedEncoders({})
const isInstalled = (program: string): boolean =>
  installed.some(({ encoder }) => encoder.program === program)
/** The codec of a delivered clip, and the program that is taken for it. */
const codecOf = ({ type }: { readonly type: string }): string => /codecs="?(\w+)/.exec(type)![1]!
const PROGRAMS: Readonly<Record<string, string>> = {
  av01: 'svt-av1',
  vp09: 'vpxenc',
  avc1: 'x264',
}
/** Folders and frames of encodes that are on disk. */
const leftovers = async (): Promise<string[]> =>
  (await readdir(tmpdir())).filter(
    (name) => name.startsWith('telon-encode-') || name.startsWith('telon-frames-'),
  )

/** The clip's frames from `start` to before `end`. */
const part = (start: number, end: number) =>
  plainSequence({
    size: { width: 640, height: 360 },
    cut: { timescale: 25, start, end },
    frameRate: { num: 25, den: 1 },
    loops: true,
  })

const recipe = (program: InstalledEncoder, more: Partial<ClipRecipe> = {}): ClipRecipe => ({
  kind: 'clip',
  sequence: part(50, 90),
  copyBlur: null,
  family: program.encoder.family,
  width: 320,
  height: 180,
  noiseReduction: 0,
  goal: { kind: 'budget', bytes: 4_000 },
  encoder: program.name,
  ...more,
})

let browser: RenderBrowser
/** Folders of encodes are made here: others may be at work on this machine. */
let ownTmp: string
const usualTmp = process.env['TMPDIR']
beforeAll(async () => {
  ownTmp = await mkdtemp(join(tmpdir(), 'telon-own-'))
  browser = await RenderBrowser.start()
  process.env['TMPDIR'] = ownTmp
})
afterAll(async () => {
  if (usualTmp === undefined) delete process.env['TMPDIR']
  else process.env['TMPDIR'] = usualTmp
  await browser.stop()
  await rm(ownTmp, { recursive: true })
})

describe.skipIf(installed.length === 0)('a clip by an encoder program', () => {
  it.each(installed.map((each) => [each.name, each] as const))(
    'has the frames that went in, in order, within its budget: %s',
    async (_, program) => {
      const steps = new Set<string>()
      const asked = recipe(program)
      const { bytes, facts } = await encodeClip(browser, program, CLIP, asked, {
        onStep: (step) => steps.add(step),
      })
      expect(bytes.byteLength).toBeLessThanOrEqual(4_000)
      expect(bytes.byteLength).toBeGreaterThan(2_000)
      // Frames that were compared in another order would have nothing in common.
      expect(facts.quality!.worstSsim).toBeGreaterThan(0.85)
      expect(facts).toMatchObject({ encoder: program.name, frames: 40, width: 320, height: 180 })
      expect(facts.seam?.ratio).toBeGreaterThan(1)
      expect(facts.deliveredSeam?.ratio).toBeGreaterThan(1)
      const read = await readMedia(memorySource(bytes))
      if (!read.ok) throw read.error
      const { video } = read.value
      expect(video.codec.family).toBe(program.encoder.family)
      expect(video.colour).toMatchObject({ matrix: 1, fullRange: false })
      expect(video.repeats).toBe(facts.repeats)
      expect(presentationOf(video).times).toEqual(Array.from({ length: 40 }, (_, k) => k))
      expect([...video.samples.keys].filter((key) => key === 1)).toHaveLength(1)
      expect(steps).toContain('pass')
      expect(await leftovers()).toEqual([])
    },
  )
  it('ends when it is cancelled, and leaves nothing behind', async () => {
    for (const program of installed) {
      const controller = new AbortController()
      const done = encodeClip(browser, program, CLIP, recipe(program), {
        signal: controller.signal,
        onStep: (step) => step !== 'frames' && controller.abort(new Error('no more')),
      })
      await expect(done).rejects.toThrow('no more')
      expect(await leftovers()).toEqual([])
    }
  })
  it('is made where its program does not come to so low a rate', async () => {
    const x264 = installed.find(({ encoder }) => encoder.program === 'x264')
    if (!x264) return expect(installed.map(({ encoder }) => encoder.program)).not.toContain('x264')
    const light = (goal: WeightGoal): ClipRecipe => recipe(x264, { sequence: part(50, 75), goal })
    // It is as small as it can be, and told to be over its budget.
    const tiny = await encodeClip(browser, x264, CLIP, light({ kind: 'budget', bytes: 1_500 }))
    expect([tiny.facts.frames, tiny.bytes.byteLength < 4_000]).toEqual([25, true])
    const middle = await encodeClip(browser, x264, CLIP, light({ kind: 'quality', ssim: 0.96 }))
    expect(middle.facts.quality!.ssim).toBeGreaterThan(0.958)
    expect(middle.bytes.byteLength).toBeLessThan(6_000)
  })
  /** The runs of an encode, and what it tells. */
  async function runsOf(
    each: InstalledEncoder,
    file: string,
    more: Partial<ClipRecipe>,
  ): Promise<{ readonly runs: string[]; readonly probed: number[]; readonly clip: EncodedClip }> {
    const runs: string[] = []
    const probed: number[] = []
    const program = {
      ...each,
      encoder: {
        ...each.encoder,
        arguments: (run: EncodeRun) => {
          runs.push(run.statisticsOnly ? 'statistics' : run.effort)
          return each.encoder.arguments(run)
        },
      },
    }
    const clip = await encodeClip(browser, program, file, recipe(program, more), {
      onStep: (step, done) => step === 'probe' && probed.push(done),
    })
    return { runs, probed, clip }
  }
  /** A drawn clip of 720p, to before second `end`. */
  const drawn = (start: number, end: number) =>
    plainSequence({
      size: { width: 1280, height: 720 },
      cut: { timescale: 1, start, end },
      frameRate: { num: 24, den: 1 },
      loops: true,
    })
  it('has statistics made once, beside the probe: neither keeps all processors busy', async () => {
    for (const each of installed.filter(({ encoder }) => encoder.statisticsFor !== 'none')) {
      const { runs, clip } = await runsOf(each, CLIP, {
        ...{ sequence: part(50, 62), goal: { kind: 'budget', bytes: 500_000 } },
      })
      const { facts } = clip
      expect(runs.filter((run) => run === 'statistics')).toHaveLength(1)
      expect(runs.indexOf('statistics')).toBeLessThan(runs.lastIndexOf('quick'))
      expect(runs.filter((run) => run === 'full')).toHaveLength(facts.passes!)
    }
  })
  it('is made without a probe where its statistics show that the budget is short', async () => {
    const x264 = installed.find(({ encoder }) => encoder.program === 'x264')
    if (!x264) return expect(installed.map(({ encoder }) => encoder.program)).not.toContain('x264')
    const sequence = drawn(2, 3)
    const encode = (bytes: number) =>
      runsOf(x264, join(CLIPS, 'rain-platform.mp4'), { sequence, goal: { kind: 'budget', bytes } })
    const short = await encode(12_000)
    expect(short.runs).not.toContain('quick')
    expect(short.clip.bytes.byteLength).toBeLessThanOrEqual(12_000)
    expect(short.clip.probe).toBeNull()
    const ample = await encode(500_000)
    expect(ample.runs).toContain('quick')
    // Statistics and probe are one step: what is done of it only grows.
    expect(ample.probed).toEqual([...ample.probed].sort((a, b) => a - b))
    expect(ample.probed.at(-1)).toBe(1)
    expect(ample.clip.facts.quality!.seen).toBeGreaterThan(41.5)
    expect(ample.clip.bytes.byteLength).toBeLessThan(400_000)
  })
  it('fills a small budget with few frames out of order', async () => {
    const x264 = installed.find(({ encoder }) => encoder.program === 'x264')
    if (!x264) return expect(installed.map(({ encoder }) => encoder.program)).not.toContain('x264')
    const { clip } = await runsOf(x264, join(CLIPS, 'dusk-window.mov'), {
      ...{ sequence: drawn(0, 4), width: 640, height: 360 },
      goal: { kind: 'budget', bytes: 18_000 },
    })
    expect(clip.bytes.byteLength).toBeLessThanOrEqual(18_000)
    expect(clip.bytes.byteLength).toBeGreaterThanOrEqual(18_000 * 0.97)
    expect(clip.facts.passes).toBeLessThanOrEqual(2)
  })
  it('is one of one frame, too', async () => {
    for (const program of installed) {
      const sequence = part(50, 51)
      const { facts } = await encodeClip(browser, program, CLIP, recipe(program, { sequence }))
      expect(facts.frames).toBe(1)
    }
  })
})

describe('an encoder that does not do its work', () => {
  /** A shell script in place of a program. */
  const script = (text: string): Encoder => ({
    ...encoderOf('x264'),
    command: 'sh',
    arguments: () => ['-c', text],
  })
  let folder: string
  beforeAll(async () => void (folder = await mkdtemp(join(tmpdir(), 'telon-fails-'))))
  afterAll(() => rm(folder, { recursive: true }))
  const run = (text: string, signal = new AbortController().signal, leadOut = 0) =>
    runEncoder(
      script(text),
      {
        raw: {
          width: 64,
          height: 36,
          frameRate: { num: 25, den: 1 },
          frames: 3,
          loops: true,
          colour: { primaries: 1, transfer: 1, matrix: 1 },
        },
        effort: 'full',
        control: { kind: 'setting', setting: 30 },
        statisticsOnly: false,
        leadOut,
        change: 0,
        statistics: join(folder, 'statistics'),
        output: join(folder, 'stream'),
        threads: 1,
      },
      CLIP,
      signal,
    )
  it('fails with its last words', () =>
    expect(run('echo "first"; echo "x264 [error]: no memory" >&2; exit 3')).rejects.toThrow(
      /sh failed \(3\): x264 \[error\]: no memory/,
    ))
  it('fails where it was killed, or closes its input early', async () => {
    await expect(run('kill -9 $$')).rejects.toThrow(EncoderFailure)
    await expect(run('exec <&-; exit 0')).resolves.toBeUndefined()
  })
  it('sees the first frames of a loop again after its last', async () => {
    await run(`cat > ${join(folder, 'taken')}`, undefined, 2)
    const [given, taken] = await Promise.all([readFile(CLIP), readFile(join(folder, 'taken'))])
    const leadOut = given.subarray(0, 2 * i420Bytes(64, 36))
    expect(taken.equals(Buffer.concat([given, leadOut]))).toBe(true)
  })
  it('is killed when the work is cancelled', async () => {
    const controller = new AbortController()
    const hanging = run(`echo $$ > ${join(folder, 'pid')}; sleep 600`, controller.signal)
    await expect.poll(() => existsSync(join(folder, 'pid'))).toBe(true)
    controller.abort(new Error('cancelled'))
    await expect(hanging).rejects.toThrow('cancelled')
    const pid = Number(await readFile(join(folder, 'pid'), 'utf8'))
    await expect.poll(() => existsSync(`/proc/${pid}`)).toBe(false)
  })
  it('cannot take more memory than it is allowed', () =>
    expect(run('exec perl -e \'my $x = "a" x (20 * 1024 ** 3);\'')).rejects.toThrow(EncoderFailure))
  it('gets no secrets of the environment', async () => {
    process.env['TELON_TEST_SECRET'] = 'hidden'
    await expect(run('echo "has $TELON_TEST_SECRET." >&2; exit 1')).rejects.toThrow('has .')
    delete process.env['TELON_TEST_SECRET']
  })
})

describe.skipIf(installed.length === 0)('a folder by encoder programs', () => {
  const args = (out: string): string[] => [
    ...['deliver', CLIP, '--out', out, '--start', '2', '--end', '3.6', '--width', '320'],
    ...['--formats', 'av1,vp9,h264', '--budget', '40', '--id', 'bridge'],
  ]
  let chromiumBrowser: Browser
  beforeAll(async () => {
    chromiumBrowser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
  })
  afterAll(() => chromiumBrowser.close())
  it('is smaller than one by the browser, and every format of it plays', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'telon-best-'))
    const [best, plain] = [join(folder, 'best'), join(folder, 'plain')]
    const done = await telonWith(
      { TELON_ENCODERS: 'x264,vpxenc,svt-av1,aomenc,sharp' },
      ...args(best),
    )
    expect(done.code, done.err).toBe(0)
    const other = await telon(...args(plain), '--encoders', 'browser')
    expect(other.code, other.err).toBe(0)
    const [ours, theirs] = [await footageManifest(best), await footageManifest(plain)]
    for (const { type, bytes } of ours.clips) {
      const codec = codecOf({ type })
      const same = theirs.clips.find((clip) => codecOf(clip) === codec)!
      if (isInstalled(PROGRAMS[codec]!)) expect(bytes, codec).toBeLessThan(same.bytes)
    }
    const site = await serveFolder(best)
    const page = await chromiumBrowser.newPage()
    for (const clip of ours.clips) {
      await page.setContent(`<video muted autoplay loop src="${site.url}/${clip.path}"></video>`)
      await plays(page)
    }
    await site.stop()
    await rm(folder, { recursive: true })
  })
  it('is whole with only some of them, and says what is missing', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'telon-some-'))
    const out = join(folder, 'out')
    const done = await telonWith({ TELON_ENCODERS: 'x264' }, ...args(out))
    expect(done.code, done.err).toBe(0)
    expect(done.err).toContain('AV1, VP9: encoded by the browser')
    expect(done.err).toContain('svt-av1, vpx-tools')
    expect((await footageManifest(out)).clips.map(codecOf).sort()).toEqual(['av01', 'avc1', 'vp09'])
    await rm(folder, { recursive: true })
  })
})

describe('pictures by an encoder outside of the browser', () => {
  const size = { width: 320, height: 180 }
  const posterOf = async (format: 'avif' | 'webp' | 'jpeg', encoder: string | null) =>
    browser.render(CLIP, {
      kind: 'poster',
      sequence: part(50, 90),
      copyBlur: null,
      picture: { kind: 'first' },
      format,
      maxBytes: 100_000,
      shared: null,
      encoder,
      ...size,
    })
  it.each(['avif', 'webp', 'jpeg'] as const)('are as good and no larger: %s', async (format) => {
    const pictures = await pictureEncoder({})
    expect(pictures?.name).toMatch(/^sharp \d/)
    browser.pictures = pictures!.encode
    const [ours, theirs] = [await posterOf(format, pictures!.name), await posterOf(format, null)]
    if (ours.facts.kind !== 'poster' || theirs.facts.kind !== 'poster') throw new Error('no poster')
    expect(ours.facts.encoder).toBe(pictures!.name)
    expect(ours.facts.ssim).toBeGreaterThanOrEqual(0.995)
    expect(ours.facts.swapDeltaE).toBeLessThan(1)
    expect(ours.bytes.byteLength).toBeLessThan(theirs.bytes.byteLength * 1.02)
  })
  it('fail with a clear message where there is none', async () => {
    browser.pictures = null
    await expect(posterOf('avif', 'sharp 0.0.0')).rejects.toThrow(/encode/)
  })
})
