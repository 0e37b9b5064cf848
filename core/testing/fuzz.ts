import { memorySource } from '../bytes/ByteSource'
import { isKeyFrame } from '../media/codecs/isKeyFrame'
import { decodeLzw } from '../media/gif/decodeLzw'
import { factsOf } from '../media/probe'
import { planRepair } from '../media/repair/repairFile'
import { presentationOf } from '../media/presentation'
import { readFile } from '../media/readMedia'
import { findingsOf } from '../material/findings'
import { seededNumbers } from './samples'

/** A well-formed file that mutants are made of. */
export interface FuzzSample {
  readonly name: string
  readonly bytes: Uint8Array
}

/** What became of a sample's mutants. */
export interface FuzzReport {
  readonly name: string
  readonly mutants: number
  /** How many ended in a value, and how many in each coded error. */
  readonly outcomes: Readonly<Record<string, number>>
  readonly slowestMs: number
  readonly maxMegabytes: number
}

/** Reads clock and memory: passed in, since the core has neither. */
export interface FuzzMeter {
  nowMs(): number
  /** Bytes held, garbage included. */
  heldBytes(): number
}

const EXTREMES = [0, 1, 2, 7, 8, 0x7f, 0xff, 0x7fff, 0xffff, 0x7fffffff, 0x80000000, 0xffffffff]
/** Heads and indexes lie near the ends of files: most damage is done there. */
const EDGE = 1200

/**
 * A damaged copy: flipped bits, lies in length fields, ranges moved into each other, and cuts. The
 * same random numbers give the same mutant.
 */
export function mutate(bytes: Uint8Array, random: () => number): Uint8Array {
  let copy = bytes.slice()
  const place = (): number => {
    const edge = Math.min(EDGE, copy.byteLength)
    const at = Math.floor(random() * edge)
    const where = random()
    return where < 0.6
      ? at
      : where < 0.8
        ? copy.byteLength - 1 - at
        : Math.floor(random() * copy.byteLength)
  }
  const write = (at: number, width: number, value: number, little: boolean): void => {
    for (let index = 0; index < width && at + index < copy.byteLength; index++) {
      const shift = 8 * (little ? index : width - 1 - index)
      copy[at + index] = shift >= 32 ? 0 : (value >>> shift) & 255
    }
  }
  const hits = 1 + Math.floor(random() * 5)
  for (let hit = 0; hit < hits && copy.byteLength > 0; hit++) {
    const kind = random()
    const at = place()
    if (kind < 0.4) copy[at] = copy[at]! ^ (1 << Math.floor(random() * 8))
    else if (kind < 0.75)
      write(
        at,
        [1, 2, 4, 8][Math.floor(random() * 4)]!,
        random() < 0.3
          ? copy.byteLength + Math.floor(random() * 5) - 2
          : EXTREMES[Math.floor(random() * EXTREMES.length)]!,
        random() < 0.4,
      )
    else if (kind < 0.9) {
      // A range laid over another: boxes in boxes, elements in elements, directories that point to
      // themselves.
      const length = Math.min(copy.byteLength - at, 8 + Math.floor(random() * 200))
      copy.copyWithin(place(), at, at + length)
    } else copy = copy.slice(0, Math.floor(random() * copy.byteLength))
  }
  return copy
}

/**
 * Everything that foreign bytes go through: reading, presentation, facts, findings, key frames,
 * repairs. Returns the outcome's name; throws on a bug.
 */
export async function exercise(bytes: Uint8Array): Promise<string> {
  const source = memorySource(bytes)
  const read = await readFile(source)
  if (!read.ok) return read.error.code
  if (read.value.kind === 'image') {
    findingsOf({ kind: 'image', ...read.value.image }, null)
    return 'image'
  }
  const { file } = read.value
  const { samples } = file.video
  for (let index = 0; index < samples.count; index++) {
    const end = samples.offsets[index]! + samples.sizes[index]!
    if (!(samples.offsets[index]! >= 0) || end > bytes.byteLength)
      throw new Error(
        `frame ${index} lies outside of the file: ${samples.offsets[index]}, ${samples.sizes[index]}`,
      )
  }
  presentationOf(file.video)
  findingsOf(factsOf(file), null)
  for (let index = 0; index < Math.min(4, samples.count); index++) {
    const frame = bytes.subarray(
      samples.offsets[index]!,
      samples.offsets[index]! + samples.sizes[index]!,
    )
    isKeyFrame(file.video.codec, frame)
    if (file.video.codec.family === 'gif') decodeLzw(frame.subarray(18), 4096)
  }
  const container = file.container === 'webm' || file.container === 'mkv' ? 'webm' : 'mp4'
  const plan = await planRepair(source, {
    container,
    keepSound: true,
    startMs: 100,
    endMs: 700,
    strip: true,
  })
  return plan.ok ? 'clip' : `clip, ${plan.error.code}`
}

/**
 * How often a mutant that seems slow is tried again: a busy machine is not the parser's fault, a
 * slow parser is slow each time.
 */
const TRIES = 12
/** Before it is tried again the machine is left in peace, longer each time. */
const REST_MS = 25

/**
 * Runs `count` mutants of a sample. Throws an Error naming sample, seed and mutant where one
 * throws, takes longer than `limitMs` or holds more than `limitBytes`.
 */
export async function fuzz(
  sample: FuzzSample,
  seed: number,
  count: number,
  limitMs: number,
  limitBytes: number,
  meter: FuzzMeter,
): Promise<FuzzReport> {
  const random = seededNumbers(seed)
  const outcomes: Record<string, number> = {}
  let slowestMs = 0
  let maxBytes = 0
  for (let mutant = 0; mutant < count; mutant++) {
    const bytes = mutate(sample.bytes, random)
    const where = `${sample.name}, seed ${seed}, mutant ${mutant}`
    let best = Infinity
    let held = Infinity
    for (let attempt = 0; attempt < TRIES && (best > limitMs || held > limitBytes); attempt++) {
      if (attempt > 1) await new Promise((resolve) => setTimeout(resolve, REST_MS * attempt))
      const heldBefore = meter.heldBytes()
      const start = meter.nowMs()
      const outcome = await exercise(bytes).catch((cause: unknown) => {
        throw new Error(`${where} threw`, { cause })
      })
      best = Math.min(best, meter.nowMs() - start)
      held = Math.min(held, meter.heldBytes() - heldBefore)
      if (attempt === 0) outcomes[outcome] = (outcomes[outcome] ?? 0) + 1
    }
    if (best > limitMs) throw new Error(`${where} took ${best.toFixed(1)} ms`)
    if (held > limitBytes) throw new Error(`${where} held ${(held / 1e6).toFixed(1)} MB`)
    slowestMs = Math.max(slowestMs, best)
    maxBytes = Math.max(maxBytes, held)
  }
  return { name: sample.name, mutants: count, outcomes, slowestMs, maxMegabytes: maxBytes / 1e6 }
}
