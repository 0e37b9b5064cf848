import { ContainerError } from '../../bytes/ContainerError'
import { SampleTableBuilder } from '../SampleTableBuilder'
import type { Box } from './boxTree'
import { findBox, readBox } from './boxTree'
import { BOXES } from './boxes/registry'

/**
 * Returns the values of a run-length table one at a time; after the end it repeats the last value.
 */
function runs<T>(table: readonly (T & { readonly count: number })[]): () => T | null {
  let run = 0
  let used = 0
  return () => {
    while (run < table.length - 1 && used >= table[run]!.count) {
      run += 1
      used = 0
    }
    used += 1
    return table[run] ?? null
  }
}

/**
 * The samples of a progressive track from its `stbl`, in decoding order, times in media ticks.
 * Tables of different lengths are read as far as both sizes and chunks reach. Samples beyond
 * `fileBytes` are left out; `media/truncated` only if none is left.
 */
export function readSampleTable(stbl: Box, fileBytes: number): SampleTableBuilder {
  const need = (type: string): Box => {
    const box = findBox(stbl.children, type)
    if (!box)
      throw new ContainerError('media/bad-value', {
        path: `${stbl.path}/${type}`,
        offset: stbl.offset,
      })
    return box
  }
  const sizes = readBox(BOXES.stsz, need('stsz')).sizes
  const delta = runs(readBox(BOXES.stts, need('stts')).runs)
  const cttsBox = findBox(stbl.children, 'ctts')
  const offset = cttsBox ? runs(readBox(BOXES.ctts, cttsBox).runs) : () => null
  const stssBox = findBox(stbl.children, 'stss')
  const keys = stssBox ? new Set(readBox(BOXES.stss, stssBox).sampleNumbers) : null
  const chunkRuns = readBox(BOXES.stsc, need('stsc')).runs
  const wide = findBox(stbl.children, 'co64')
  const chunks = wide
    ? readBox(BOXES.co64, wide).offsets
    : readBox(BOXES.stco, need('stco')).offsets

  const total = 'shared' in sizes ? sizes.count : sizes.each.length
  const builder = new SampleTableBuilder()
  let decodeTime = 0
  let run = 0
  for (let chunk = 0; chunk < chunks.length && builder.count < total; chunk++) {
    while (run + 1 < chunkRuns.length && chunkRuns[run + 1]!.firstChunk <= chunk + 1) run += 1
    const inChunk = chunkRuns[run]?.samplesPerChunk ?? 0
    let position = chunks[chunk]!
    for (let index = 0; index < inChunk && builder.count < total; index++) {
      const size = 'shared' in sizes ? sizes.shared : sizes.each[builder.count]!
      if (position + size > fileBytes) {
        if (builder.count === 0)
          throw new ContainerError('media/truncated', { offset: position, path: stbl.path })
        return builder
      }
      const duration = delta()?.delta ?? 0
      const time = decodeTime + (offset()?.offset ?? 0)
      builder.add(position, size, time, duration, keys === null || keys.has(builder.count + 1))
      decodeTime += duration
      position += size
    }
  }
  return builder
}
