import type { VideoTrack } from './MediaFile'

/** The frames a track shows, in order of presentation. */
export interface Presentation {
  /** Ticks a second. */
  readonly timescale: number
  /** Sample numbers, by order of presentation. */
  readonly order: readonly number[]
  /** Presentation times in ticks from the first shown instant, rising. */
  readonly times: readonly number[]
  /** Length in ticks. */
  readonly length: number
}

/** Sorts samples by presentation time and keeps those the edit list shows. */
export function presentationOf(track: VideoTrack): Presentation {
  const { samples } = track
  const order: number[] = []
  for (let index = 0; index < samples.count; index++) {
    const time = samples.times[index]!
    if (time + Math.max(1, samples.durations[index]!) > track.shownStart && time < track.shownEnd)
      order.push(index)
  }
  order.sort((a, b) => samples.times[a]! - samples.times[b]!)
  return {
    timescale: track.timescale,
    order,
    times: order.map((index) => Math.max(0, samples.times[index]! - track.shownStart)),
    length: track.shownEnd - track.shownStart,
  }
}

/** The number of the frame on screen at `ticks`: the last one at or before it. */
export function frameAt(presentation: Pick<Presentation, 'times'>, ticks: number): number {
  let low = 0
  let high = presentation.times.length - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (presentation.times[middle]! <= ticks) low = middle
    else high = middle - 1
  }
  return low
}
