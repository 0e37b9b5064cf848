import { expect, it } from 'vitest'
import { storedBytes } from './storedBytes'

/** A coded frame as an encoder gives it. */
function chunkOf(bytes: readonly number[]): EncodedVideoChunk {
  return {
    byteLength: bytes.length,
    copyTo: (into: Uint8Array) => into.set(bytes),
  } as unknown as EncodedVideoChunk
}

/* A delimiter (type 2, no bytes), then a frame (type 6) of three. */
const UNIT = [0x12, 0, 0x32, 3, 7, 8, 9]

it('counts of AV1 what is stored: no delimiter', () =>
  expect([...storedBytes('av1', chunkOf(UNIT))]).toEqual([0x32, 3, 7, 8, 9]))
it.each(['vp9', 'h264', 'vp8'] as const)('leaves %s as it came', (family) =>
  expect([...storedBytes(family, chunkOf(UNIT))]).toEqual(UNIT),
)
it('keeps its own copy: what an encoder does with its bytes later does not matter', () => {
  const bytes = [...UNIT]
  const stored = storedBytes('vp9', chunkOf(bytes))
  bytes.fill(0)
  expect([...stored]).toEqual(UNIT)
})
