import { findCuts } from '../material/shots'

/** Parts of a loop that are encoded, and frames of each. Source: docs/weight.md. */
const WINDOWS = 3
const WINDOW_FRAMES = 12

/** Which frames of a loop a probe encodes. */
export interface ProbeWindows {
  /** Frames by their numbers, each part by itself. */
  readonly windows: readonly (readonly number[])[]
  /**
   * Hard cuts of the loop that are in none of them: the first frame of a shot takes about as much
   * as a key frame.
   */
  readonly cuts: number
}

/** Whether a loop of so many frames is hardly longer than its windows: it is encoded whole. */
export function isProbedWhole(frames: number): boolean {
  return frames <= WINDOWS * WINDOW_FRAMES
}

/**
 * Samples a loop by its shots and its motion: from each third the run of frames that moves most
 * nearly as much as the third does, without a cut in it where there is such a run. `steps[k]` is
 * how far frame k is from the one before (ΔE); `steps[0]` is 0.
 */
export function probeWindows(steps: readonly number[]): ProbeWindows {
  const frames = steps.length
  if (isProbedWhole(frames)) return { windows: [run(0, frames)], cuts: 0 }
  const cuts = findCuts(steps)
  const isCut = new Set(cuts)
  const windows = Array.from({ length: WINDOWS }, (_, index) => {
    const from = Math.round((index * frames) / WINDOWS)
    const to = Math.round(((index + 1) * frames) / WINDOWS)
    return run(typicalStart(steps, isCut, from, to), WINDOW_FRAMES)
  })
  const within = (cut: number): boolean =>
    windows.some((window) => cut > window[0]! && cut <= window[window.length - 1]!)
  return { windows, cuts: cuts.filter((cut) => !within(cut)).length }
}

/**
 * Bytes of an average frame of a loop where its windows' frames take `frameBytes` and cuts outside
 * of them a key frame's bytes each.
 */
export function withCuts(
  { keyBytes, frameBytes }: { readonly keyBytes: number; readonly frameBytes: number },
  cuts: number,
  frames: number,
): number {
  const share = cuts / Math.max(1, frames - 1)
  return frameBytes + share * Math.max(0, keyBytes - frameBytes)
}

/** Of the runs between two frames the one that moves most like all; the middle of equals. */
function typicalStart(
  steps: readonly number[],
  isCut: ReadonlySet<number>,
  from: number,
  to: number,
): number {
  const smooth = (at: number): number => (isCut.has(at) ? 0 : steps[at]!)
  const mean = (start: number, end: number): number => {
    let sum = 0
    for (let at = start; at < end; at++) sum += smooth(at)
    return sum / Math.max(1, end - start)
  }
  const usual = mean(from, to)
  const middle = (from + to - WINDOW_FRAMES) / 2
  const starts = Array.from({ length: to - from - WINDOW_FRAMES + 1 }, (_, k) => from + k)
  const rated = starts.map((start) => {
    const inner = run(start + 1, WINDOW_FRAMES - 1)
    return {
      start,
      cuts: inner.filter((at) => isCut.has(at)).length,
      // What cannot be told apart is as good: then the middle is taken.
      miss: Math.round(Math.abs(mean(start + 1, start + WINDOW_FRAMES) - usual) / PRECISION),
      aside: Math.abs(start - middle),
    }
  })
  return rated.sort((a, b) => a.cuts - b.cuts || a.miss - b.miss || a.aside - b.aside)[0]!.start
}

/** Steps that differ by less than this are as large, in ΔE. */
const PRECISION = 0.01

const run = (start: number, length: number): number[] => Array.from({ length }, (_, k) => start + k)
