import { describe, expect, it } from 'vitest'
import type { ClipRecipe } from '../backdrop/recipe'
import { plainSequence } from '../kinds/footage/footageSequence'
import type { EncodedTrack } from '../media/EncodedTrack'
import { inventTrack } from '../testing/samples'
import { packClip } from './packClip'

const FRAMES = 150
const recipe = (bytes: number): ClipRecipe => ({
  kind: 'clip',
  sequence: plainSequence({
    size: { width: 640, height: 360 },
    cut: { timescale: 25, start: 0, end: FRAMES },
    frameRate: { num: 25, den: 1 },
    loops: true,
  }),
  copyBlur: null,
  family: 'h264',
  width: 640,
  height: 360,
  noiseReduction: 0,
  goal: { kind: 'budget', bytes },
  encoder: 'x264 0.164.3095',
})
const track = inventTrack('h264', FRAMES, [0])
/** The same frames, every two of them shown in the other order: the worst there is for an index. */
const reordered: EncodedTrack = {
  ...track,
  frames: track.frames.map((frame, k) => ({
    ...frame,
    shown: k === 0 ? 0 : k % 2 === 1 ? Math.min(k + 1, FRAMES - 1) : k - 1,
  })),
}
const dataBytes = track.frames.reduce((sum, { data }) => sum + data.byteLength, 0)

describe('a packed clip', () => {
  it('tells which encoder made it', () =>
    expect(packClip(recipe(1e6), track).facts).toMatchObject({
      encoder: 'x264 0.164.3095',
      frames: FRAMES,
      type: 'video/mp4',
    }))
  it('lists reordered loops less often where their index would exceed the budget', () => {
    const generous = packClip(recipe(1e6), reordered)
    for (let spare = 4_500; spare < 12_000; spare += 250) {
      const budget = dataBytes + spare
      const { bytes, facts } = packClip(recipe(budget), reordered)
      expect(bytes.byteLength, `${spare}`).toBeLessThanOrEqual(budget)
      expect(facts.repeats).toBeGreaterThanOrEqual(2)
      expect(facts.repeats).toBeLessThanOrEqual(generous.facts.repeats)
    }
  })
  it('keeps its turns where its frames alone exceed the budget', () => {
    const { bytes, facts } = packClip(recipe(Math.round(dataBytes / 2)), reordered)
    expect(bytes.byteLength).toBeGreaterThan(dataBytes)
    expect(facts.repeats).toBeGreaterThanOrEqual(2)
  })
})
