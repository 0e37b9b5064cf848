import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { firstLoad, LINES, type LoadedPage } from './firstLoad'

const PAGE: LoadedPage = { markup: 1500, style: 1400, script: 1100, still: 60_000, autoplay: false, clip: { headBytes: 12_000, frameBytes: [40_000, ...Array.from({ length: 239 }, () => 6000)], framesPerSecond: 24 } }
const EMULATED = { bitsPerSecond: 1_600_000, roundTripMs: 150, handshakes: 0, slowStart: false }

describe('the model of a first load', () => {
  it('counts every byte, heads of answers too', () => {
    const { bytes } = firstLoad(PAGE, EMULATED)
    const files = 1500 + 1400 + 1100 + 60_000 + 12_000 + 40_000 + 239 * 6000
    expect(bytes).toBeGreaterThan(files)
    expect(bytes).toBeLessThan(files + 5 * 500)
  })
  it('has the still after two round trips and its bytes at the line’s rate', () => {
    const { stillMs } = firstLoad(PAGE, EMULATED)
    const expected = 2 * 150 + ((1500 + 1400 + 1100 + 60_000) * 8) / 1600
    expect(Math.abs(stillMs - expected) / expected).toBeLessThan(0.1)
  })
  it('asks for the clip once still, style and script have come', () => {
    const { transfers, stillMs, motionMs } = firstLoad(PAGE, EMULATED)
    expect(transfers.find(({ name }) => name === 'clip')!.askedMs).toBeGreaterThanOrEqual(stillMs - 1)
    expect(motionMs!).toBeGreaterThan(stillMs + 150)
  })
  it('lets a clip that plays from the markup keep the still waiting', () => expect(firstLoad({ ...PAGE, autoplay: true }, EMULATED).stillMs).toBeGreaterThan(firstLoad(PAGE, EMULATED).stillMs * 1.3))
  it('waits for the handshake, and longer while the connection grows', () => {
    const plain = firstLoad(PAGE, EMULATED).stillMs
    expect(firstLoad(PAGE, { ...EMULATED, handshakes: 3 }).stillMs).toBeCloseTo(plain + 450, -1)
    const fast = { ...EMULATED, bitsPerSecond: 50_000_000 }
    expect(firstLoad(PAGE, { ...fast, slowStart: true }).stillMs).toBeGreaterThan(firstLoad(PAGE, fast).stillMs + 140)
  })
  it('tells when a line cannot keep up with the clip', () => {
    // 6000 bytes a frame at 24 a second are 1.15 Mbit/s.
    expect(firstLoad(PAGE, { ...EMULATED, bitsPerSecond: 800_000 })).toMatchObject({ stalls: expect.any(Number) as number })
    expect(firstLoad(PAGE, { ...EMULATED, bitsPerSecond: 800_000 }).stalledMs).toBeGreaterThan(3000)
    expect(firstLoad(PAGE, EMULATED).stalls).toBe(0)
  })
  it('wakes the player while data come: a slow machine is seen on a fast line, not where the line is what takes long', () => {
    const motion = (bitsPerSecond: number, playerMs: number): number => firstLoad(PAGE, { ...EMULATED, bitsPerSecond }, { thinkingMs: 12, playerMs }).motionMs!
    expect(motion(100_000_000, 280)).toBeCloseTo(motion(100_000_000, 80) + 200, -1)
    expect(motion(1_000_000, 280)).toBe(motion(1_000_000, 80))
  })
  it('has the still later by what a machine thinks, once for its request and once to show it', () => {
    const still = (thinkingMs: number): number => firstLoad(PAGE, EMULATED, { thinkingMs, playerMs: 80 }).stillMs
    expect(still(52) - still(12)).toBeCloseTo(80, -1)
  })
  it('has no motion where there is no clip', () => expect(firstLoad({ ...PAGE, clip: null }, EMULATED)).toMatchObject({ motionMs: null, stalls: 0, stalledMs: 0 }))
  it('is never slower on a better line (seed 51)', () => {
    fc.assert(fc.property(fc.integer({ min: 300_000, max: 50_000_000 }), fc.integer({ min: 5, max: 400 }), fc.boolean(), (bitsPerSecond, roundTripMs, slowStart) => {
      const line = { bitsPerSecond, roundTripMs, handshakes: 2, slowStart }
      const better = { ...line, bitsPerSecond: bitsPerSecond * 2, roundTripMs: roundTripMs / 2 }
      expect(firstLoad(PAGE, better).stillMs).toBeLessThanOrEqual(firstLoad(PAGE, line).stillMs + 4)
      expect(firstLoad(PAGE, better).motionMs!).toBeLessThanOrEqual(firstLoad(PAGE, line).motionMs! + 6)
    }), { seed: 51, numRuns: 40 })
  })
  it('gets faster from preset to preset', () => {
    const stills = Object.values(LINES).map((line) => firstLoad(PAGE, line).stillMs)
    expect([...stills].sort((a, b) => b - a)).toEqual(stills)
  })
})
