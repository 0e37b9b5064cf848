import { readFile, rm, writeFile } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import type { ClipFacts } from '../core/api/renditions'
import { packClip } from '../core/api/packClip'
import { overheadOf } from '../core/backdrop/passJob'
import type { ClipRecipe, ProbeRecipe } from '../core/backdrop/recipe'
import { ContainerError } from '../core/bytes/ContainerError'
import { toNumber } from '../core/Fraction'
import type { EncodedTrack } from '../core/media/EncodedTrack'
import { offsetBytesOf } from '../core/media/isobmff/writeMp4'
import { trackOfStream } from '../core/media/streams/trackOfStream'
import { usualOffsetBytes } from '../core/weight/containerOverhead'
import { changeBy } from '../core/weight/native/change'
import type { Control, EncodeRun } from '../core/weight/native/Encoder'
import {
  planNativePass,
  type NativeJob,
  type NativePass,
} from '../core/weight/native/planNativePass'
import { ProbeCurve, type ProbePoint } from '../core/weight/ProbeCurve'
import type { ProbeFacts } from '../core/weight/ProbeFacts'
import type { InputFiles, RenderBrowser } from '../headless/RenderBrowser'
import type { InstalledEncoder } from './installed'
import { EncoderFailure, EncoderRefusal, runEncoder } from './runEncoder'
import { KeptFrames } from './KeptFrames'
import { removeScratch, scratchFolder } from './scratchFolder'
import type { SpooledFrames } from './spoolFrames'

/** A finished clip, and the probe that it was planned from. */
export interface EncodedClip {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly facts: ClipFacts
  /** Null where none was needed. */
  readonly probe: ProbeFacts | null
}

/** What is done at present, and which share of it is done. */
export type EncodeStep = (step: 'frames' | 'probe' | 'pass', done: number, pass: number) => void

export interface EncodeOptions {
  readonly signal?: AbortSignal
  readonly onStep?: EncodeStep
  /** An earlier probe of the same clip with the same encoder. */
  readonly probe?: ProbeFacts | null
  /** Frames of the clip before; whoever gives them clears them. */
  readonly frames?: KeptFrames
}

/**
 * Renders a clip with an encoder program: frames come from the browser once, are probed at quick
 * settings, and encoded towards the recipe's goal; the finished file is decoded in the browser and
 * compared with them. Nothing is left on disk. Errors: EncoderFailure; those of decoding; the
 * signal's reason.
 */
export function encodeClip(
  browser: RenderBrowser,
  installed: InstalledEncoder,
  files: InputFiles,
  recipe: ClipRecipe,
  options: EncodeOptions = {},
): Promise<EncodedClip> {
  return withEncoding(browser, installed, files, recipe, options, (encoding) =>
    encoding.render(options.probe ?? null),
  )
}

/** Quick encodes of a clip by an encoder program. Errors: as those of `encodeClip`. */
export function probeClip(
  browser: RenderBrowser,
  installed: InstalledEncoder,
  files: InputFiles,
  recipe: ProbeRecipe,
  options: EncodeOptions = {},
): Promise<ProbeFacts> {
  const clip = { ...recipe, kind: 'clip', goal: null } as const
  return withEncoding(browser, installed, files, clip, options, (encoding) => encoding.probe())
}

async function withEncoding<T>(
  browser: RenderBrowser,
  installed: InstalledEncoder,
  files: InputFiles,
  recipe: ClipRecipe,
  options: EncodeOptions,
  work: (encoding: ClipEncoding) => Promise<T>,
): Promise<T> {
  const { signal = new AbortController().signal, onStep = () => undefined } = options
  const frames = options.frames ?? new KeptFrames()
  const folder = await scratchFolder('telon-encode')
  try {
    const spooled = await frames.of(browser, files, recipe, signal, (k) =>
      onStep('frames', k / recipe.sequence.frames, 0),
    )
    return await work(new ClipEncoding(browser, installed, recipe, spooled, folder, signal, onStep))
  } finally {
    await removeScratch(folder)
    if (!options.frames) await frames.clear()
  }
}

/** A pass with its file. */
interface MadePass extends Pick<EncodedClip, 'bytes' | 'facts'> {
  readonly pass: NativePass
}

/** The encodes of one clip. */
class ClipEncoding {
  /** The run that makes statistics for later ones, once there is one. */
  private statistics: Promise<void> | null = null
  /** What its frames took, where it tells. */
  private statisticsBytes: number | null = null
  /** What the offsets of reordered frames take in an index for each turn. */
  private offsetBytes: number
  /** How much changes from frame to frame, once a probe told. */
  private change = 0

  constructor(
    private readonly browser: RenderBrowser,
    private readonly installed: InstalledEncoder,
    private readonly recipe: ClipRecipe,
    private readonly spooled: SpooledFrames,
    private readonly folder: string,
    private readonly signal: AbortSignal,
    private readonly onStep: EncodeStep,
  ) {
    const isReordered = installed.encoder.stream === 'annexb'
    this.offsetBytes = isReordered ? usualOffsetBytes(spooled.raw.frames) : 0
  }

  /** Quick encodes of the whole loop at a few settings; `before` is the share of the step done. */
  async probe(before = 0): Promise<ProbeFacts> {
    const { encoder } = this.installed
    const start = performance.now()
    const points: ProbePoint[] = []
    // A file is compared while the next one is made: neither keeps all processors busy.
    let comparing: Promise<unknown> = Promise.resolve()
    for (const [index, setting] of encoder.probed.entries()) {
      const encoding = this.encode({ kind: 'setting', setting }, 'quick', (done) =>
        this.onStep('probe', before + ((1 - before) * (index + done)) / encoder.probed.length, 0),
      )
      const [track] = await bothOf(encoding, comparing)
      comparing = this.pointOf(setting, track).then((point) => points.push(point))
    }
    await comparing
    return {
      kind: 'probe',
      steering: 'quantizer',
      bounds: { finest: encoder.scale.finest, coarsest: encoder.scale.coarsest },
      points,
      anchorEvery: null,
      parts: [],
      frames: this.spooled.raw.frames,
      seconds: Math.round((performance.now() - start) / 100) / 10,
    }
  }

  /** What a quick encode tells of its setting. */
  private async pointOf(setting: number, track: EncodedTrack): Promise<ProbePoint> {
    const { quality } = await this.compared(packClip(this.recipe, track).bytes)
    const [first, ...others] = track.frames.map(({ data }) => data.byteLength)
    return {
      setting,
      keyBytes: first!,
      frameBytes: others.reduce((sum, size) => sum + size, 0) / Math.max(1, others.length),
      ssim: quality.ssim,
      psnr: quality.psnr,
      seen: quality.seen,
    }
  }

  /** Passes at full effort towards the recipe's goal. */
  async render(earlier: ProbeFacts | null): Promise<EncodedClip> {
    let probe = earlier
    const { encoder } = this.installed
    const { raw, seam } = this.spooled
    const start = performance.now()
    let known: Pick<NativeJob, 'goal' | 'encoder' | 'frames' | 'framesPerSecond'> = {
      goal: this.recipe.goal ?? { kind: 'quality', ssim: QUICK_SSIM },
      encoder,
      frames: raw.frames,
      framesPerSecond: toNumber(raw.frameRate),
    }
    const made: MadePass[] = []
    // Statistics that come first are a part of the same step.
    let probedBefore = 0
    for (;;) {
      const curve = probe && new ProbeCurve(probe.points, probe.steering)
      this.change = curve ? changeBy(curve, encoder, raw) : 0
      const decision = planNativePass(
        {
          ...{ ...known, curve, change: this.change, statisticsBytes: this.statisticsBytes },
          overhead: overheadOf(this.recipe, raw.frames, this.offsetBytes),
        },
        made.map(({ pass }) => pass),
      )
      if (decision.kind === 'statistics') {
        probedBefore = STATISTICS_PART
        await this.withStatistics((done) => this.onStep('probe', done * probedBefore, 0))
        continue
      }
      if (decision.kind === 'probe') {
        // Neither keeps all processors busy.
        ;[probe] = await bothOf(this.probe(probedBefore), this.withStatistics())
        continue
      }
      if (decision.kind === 'keep') {
        const { bytes, facts } = made[decision.index]!
        const encodeSeconds = Math.round((performance.now() - start) / 100) / 10
        return { bytes, facts: { ...facts, seam, encodeSeconds, passes: made.length }, probe }
      }
      const number = made.length
      const track = await this.encode(decision.control, 'full', (done) =>
        this.onStep('pass', done, number),
      ).catch((error: unknown) => {
        if (error instanceof EncoderRefusal && decision.control.kind === 'rate') return null
        throw error
      })
      if (!track) {
        // It has a least rate, which it does not tell: it is asked for settings from now on.
        known = { ...known, encoder: { ...encoder, budgetBy: 'setting', rateBeyond: null } }
        continue
      }
      const { bytes, facts } = packClip(this.recipe, track)
      const { quality, seam: deliveredSeam } = await this.compared(bytes)
      this.offsetBytes = offsetBytesOf(track.frames)
      const dataBytes = bytesOf(track.frames)
      made.push({
        pass: {
          control: decision.control,
          dataBytes,
          bytes: bytes.byteLength,
          ssim: quality.ssim,
          seen: quality.seen,
          first: {
            lead: quality.firstPsnr - quality.psnr,
            share: track.frames[0]!.data.byteLength / dataBytes,
          },
        },
        bytes,
        facts: { ...facts, quality, deliveredSeam },
      })
    }
  }

  /** Statistics of the clip, which all passes are planned from; nothing where none are needed. */
  private withStatistics(onDone: (done: number) => void = () => undefined): Promise<void> {
    if (this.installed.encoder.statisticsFor === 'none') return Promise.resolve()
    this.statistics ??= this.makeStatistics(onDone)
    return this.statistics
  }

  private async makeStatistics(onDone: (done: number) => void): Promise<void> {
    const { encoder } = this.installed
    // A probe may write its streams at the same time.
    const output = join(this.folder, 'first')
    const run = { ...this.runOf(STATISTICS, 'full'), statisticsOnly: true, output }
    const { path } = this.spooled
    await runEncoder(encoder, run, path, this.signal, (taken) => onDone(taken / run.raw.frames))
    if (encoder.shortBelow === null) return
    const { frames } = await this.trackOf(run)
    this.statisticsBytes = bytesOf(frames)
    // Later runs take their order of frames from the statistics.
    this.offsetBytes = offsetBytesOf(frames)
    await rm(output)
  }

  private runOf(control: Control, effort: EncodeRun['effort']): EncodeRun {
    const { encoder } = this.installed
    const loop = this.spooled.raw
    // A loop may have fewer frames than its lead-out would take.
    const leadOut = loop.loops ? Math.min(encoder.leadOut, loop.frames) : 0
    return {
      raw: { ...loop, frames: loop.frames + leadOut },
      leadOut,
      change: this.change,
      effort,
      control,
      statisticsOnly: false,
      statistics: join(this.folder, 'statistics'),
      output: join(this.folder, 'stream'),
      threads: availableParallelism(),
    }
  }

  private async encode(
    control: Control,
    effort: EncodeRun['effort'],
    onDone: (done: number) => void,
  ): Promise<EncodedTrack> {
    const { encoder } = this.installed
    const needsStatistics =
      effort === 'full' &&
      (encoder.statisticsFor === 'all' ||
        (encoder.statisticsFor === 'rate' && control.kind === 'rate'))
    if (needsStatistics) await this.withStatistics()
    const run = this.runOf(control, effort)
    const { path } = this.spooled
    await runEncoder(encoder, run, path, this.signal, (taken) => onDone(taken / run.raw.frames))
    return this.trackOf(run)
  }

  /** The track of a run's stream, without its lead-out. */
  private async trackOf({ output, raw }: EncodeRun): Promise<EncodedTrack> {
    const { encoder } = this.installed
    const stream = new Uint8Array(await readFile(output))
    try {
      const track = trackOfStream(stream, encoder.stream, { family: encoder.family, ...raw })
      return { ...track, frames: track.frames.slice(0, this.spooled.raw.frames) }
    } catch (cause) {
      if (!(cause instanceof ContainerError)) throw cause
      throw new EncoderFailure(
        `${encoder.command} wrote a stream that Telon cannot read (${cause.code}). Use the encoder of the browser, and report the version: ${this.installed.name}.`,
        { cause },
      )
    }
  }

  /** What a browser decodes of a file, against the frames that went in. */
  private async compared(bytes: Uint8Array): ReturnType<RenderBrowser['compare']> {
    const { width, height, sequence } = this.recipe
    const made = join(this.folder, 'made')
    await writeFile(made, bytes)
    return this.browser.compare(made, this.spooled.path, {
      width,
      height,
      frames: this.spooled.raw.frames,
      loops: sequence.loops,
    })
  }
}

const bytesOf = (frames: EncodedTrack['frames']): number =>
  frames.reduce((sum, { data }) => sum + data.byteLength, 0)

/** Waits for both to end, so that nothing goes on behind the back of what failed. */
async function bothOf<T, U>(one: Promise<T>, other: Promise<U>): Promise<[T, U]> {
  await Promise.allSettled([one, other])
  return Promise.all([one, other])
}

/** Share of a probe's step that statistics take where they come before it. */
const STATISTICS_PART = 0.5
/** Statistics are the same for all controls. */
const STATISTICS: Control = { kind: 'setting', setting: 32 }
/** The quality of a file that has no goal. */
const QUICK_SSIM = 0.96
