import { ContainerError } from '../bytes/ContainerError'
import type { SampleTable } from './MediaFile'

/**
 * Four and a half hours at 60 frames per second: a larger index is damaged or hostile. A table in
 * which all samples share one size can claim any number in a few bytes, so the file's size is no
 * bound.
 */
const MAX_SAMPLES = 1_000_000

/** Collects samples one by one, growing as they come, never from a declared count. */
export class SampleTableBuilder {
  private capacity = 1024
  private columns = SampleTableBuilder.empty(1024)
  count = 0

  private static empty(capacity: number) {
    return {
      offsets: new Float64Array(capacity),
      sizes: new Float64Array(capacity),
      times: new Float64Array(capacity),
      durations: new Float64Array(capacity),
      keys: new Uint8Array(capacity),
    }
  }

  /** Adds a sample: file offset and size in bytes, time and duration in ticks. */
  add(offset: number, size: number, time: number, duration: number, key: boolean): void {
    if (this.count === MAX_SAMPLES) throw new ContainerError('media/index-too-large')
    if (this.count === this.capacity) this.grow()
    const at = this.count++
    this.columns.offsets[at] = offset
    this.columns.sizes[at] = size
    this.columns.times[at] = time
    this.columns.durations[at] = duration
    this.columns.keys[at] = key ? 1 : 0
  }

  private grow(): void {
    this.capacity *= 2
    const larger = SampleTableBuilder.empty(this.capacity)
    for (const name of ['offsets', 'sizes', 'times', 'durations'] as const)
      larger[name].set(this.columns[name])
    larger.keys.set(this.columns.keys)
    this.columns = larger
  }

  /** The table, its times moved by `shiftTicks`. */
  finish(shiftTicks = 0): SampleTable {
    const times = this.columns.times.slice(0, this.count)
    for (let index = 0; index < times.length; index++) times[index]! += shiftTicks
    return {
      count: this.count,
      offsets: this.columns.offsets.slice(0, this.count),
      sizes: this.columns.sizes.slice(0, this.count),
      times,
      durations: this.columns.durations.slice(0, this.count),
      keys: this.columns.keys.slice(0, this.count),
    }
  }
}
