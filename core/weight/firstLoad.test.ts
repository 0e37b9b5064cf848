import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { firstLoad, LINES, type LoadedPage } from './firstLoad'

const PAGE: LoadedPage = {
  markup: 1500,
  style: 1400,
  script: 1100,
  poster: 60_000,
  autoplay: false,
  clip: {
    headBytes: 12_000,
    frameBytes: [40_000, ...Array.from({ length: 239 }, () => 6000)],
    framesPerSecond: 24,
  },
}
const EMULATED = { bitsPerSecond: 1_600_000, roundTripMs: 150, handshakes: 0, slowStart: false }

describe('the model of a first load', () => {
  it('counts every byte, heads of answers too', () => {
    const { bytes } = firstLoad(PAGE, EMULATED)
    const files = 1500 + 1400 + 1100 + 60_000 + 12_000 + 40_000 + 239 * 6000
    expect(bytes).toBeGreaterThan(files)
    expect(bytes).toBeLessThan(files + 5 * 500)
  })
  it('has the poster after two round trips and its bytes at the line’s rate', () => {
    const { posterMs } = firstLoad(PAGE, EMULATED)
    const expected = 2 * 150 + ((1500 + 1400 + 1100 + 60_000) * 8) / 1600
    expect(Math.abs(posterMs - expected) / expected).toBeLessThan(0.1)
  })
  it('asks for the clip once poster, style and script have come', () => {
    const { transfers, posterMs, motionMs } = firstLoad(PAGE, EMULATED)
    expect(transfers.find(({ name }) => name === 'clip')!.askedMs).toBeGreaterThanOrEqual(
      posterMs - 1,
    )
    expect(motionMs!).toBeGreaterThan(posterMs + 150)
  })
  it('lets a clip that plays from the markup keep the poster waiting', () =>
    expect(firstLoad({ ...PAGE, autoplay: true }, EMULATED).posterMs).toBeGreaterThan(
      firstLoad(PAGE, EMULATED).posterMs * 1.3,
    ))
  it('waits for the handshake, and longer while the connection grows', () => {
    const plain = firstLoad(PAGE, EMULATED).posterMs
    expect(firstLoad(PAGE, { ...EMULATED, handshakes: 3 }).posterMs).toBeCloseTo(plain + 450, -1)
    const fast = { ...EMULATED, bitsPerSecond: 50_000_000 }
    expect(firstLoad(PAGE, { ...fast, slowStart: true }).posterMs).toBeGreaterThan(
      firstLoad(PAGE, fast).posterMs + 140,
    )
  })
  it('tells when a line cannot keep up with the clip', () => {
    // 6000 bytes a frame at 24 a second are 1.15 Mbit/s.
    expect(firstLoad(PAGE, { ...EMULATED, bitsPerSecond: 800_000 })).toMatchObject({
      stalls: expect.any(Number) as number,
    })
    expect(firstLoad(PAGE, { ...EMULATED, bitsPerSecond: 800_000 }).stalledMs).toBeGreaterThan(3000)
    expect(firstLoad(PAGE, EMULATED).stalls).toBe(0)
  })
  it('wakes the player while data come: a slow machine is seen on a fast line, not where the line is what takes long', () => {
    const motion = (bitsPerSecond: number, playerMs: number): number =>
      firstLoad(PAGE, { ...EMULATED, bitsPerSecond }, { thinkingMs: 12, playerMs }).motionMs!
    expect(motion(100_000_000, 280)).toBeCloseTo(motion(100_000_000, 80) + 200, -1)
    expect(motion(1_000_000, 280)).toBe(motion(1_000_000, 80))
  })
  it('has the poster later by what a machine thinks, once for its request and once to show it', () => {
    const poster = (thinkingMs: number): number =>
      firstLoad(PAGE, EMULATED, { thinkingMs, playerMs: 80 }).posterMs
    expect(poster(52) - poster(12)).toBeCloseTo(80, -1)
  })
  it('has no motion where there is no clip', () =>
    expect(firstLoad({ ...PAGE, clip: null }, EMULATED)).toMatchObject({
      motionMs: null,
      stalls: 0,
      stalledMs: 0,
    }))
  it('is never slower on a better line (seed 51)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 300_000, max: 50_000_000 }),
        fc.integer({ min: 5, max: 400 }),
        fc.boolean(),
        (bitsPerSecond, roundTripMs, slowStart) => {
          const line = { bitsPerSecond, roundTripMs, handshakes: 2, slowStart }
          const better = { ...line, bitsPerSecond: bitsPerSecond * 2, roundTripMs: roundTripMs / 2 }
          expect(firstLoad(PAGE, better).posterMs).toBeLessThanOrEqual(
            firstLoad(PAGE, line).posterMs + 4,
          )
          expect(firstLoad(PAGE, better).motionMs!).toBeLessThanOrEqual(
            firstLoad(PAGE, line).motionMs! + 6,
          )
        },
      ),
      { seed: 51, numRuns: 40 },
    )
  })
  const lines = fc.record({
    bitsPerSecond: fc.integer({ min: 400_000, max: 200_000_000 }),
    roundTripMs: fc.integer({ min: 1, max: 300 }),
    handshakes: fc.integer({ min: 0, max: 3 }),
    slowStart: fc.boolean(),
  })
  const pages = fc.record({
    markup: fc.integer({ min: 500, max: 4000 }),
    style: fc.integer({ min: 200, max: 4000 }),
    script: fc.integer({ min: 200, max: 4000 }),
    poster: fc.integer({ min: 3000, max: 150_000 }),
    autoplay: fc.boolean(),
    clip: fc.option(
      fc.record({
        headBytes: fc.integer({ min: 700, max: 5000 }),
        frameBytes: fc.array(fc.integer({ min: 20, max: 20_000 }), { minLength: 2, maxLength: 60 }),
        framesPerSecond: fc.constantFrom(12, 24, 30),
      }),
    ),
  })
  it('never carries more than the line does, nor answers before it was asked (seed 52)', () => {
    fc.assert(
      fc.property(pages, lines, (page, line) => {
        const { transfers, posterMs, motionMs, bytes } = firstLoad(page, line)
        for (const { askedMs, firstByteMs, doneMs } of transfers) {
          expect(firstByteMs).toBeGreaterThanOrEqual(askedMs + line.roundTripMs)
          expect(doneMs).toBeGreaterThan(firstByteMs)
        }
        const [from, to] = [
          Math.min(...transfers.map(({ firstByteMs }) => firstByteMs)),
          Math.max(...transfers.map(({ doneMs }) => doneMs)),
        ]
        expect(((to - from) / 1000) * line.bitsPerSecond * 1.001).toBeGreaterThanOrEqual(bytes * 8)
        expect(posterMs).toBeGreaterThan(transfers.find(({ name }) => name === 'poster')!.doneMs)
        if (motionMs !== null)
          expect(motionMs).toBeGreaterThan(
            transfers.find(({ name }) => name === 'clip')!.firstByteMs,
          )
        expect(transfers.some(({ name }) => name === 'clip')).toBe(page.clip !== null)
      }),
      { seed: 52, numRuns: 40 },
    )
  })
  it('never lets a clip that the script asks for take anything from the poster (seed 53)', () => {
    fc.assert(
      fc.property(pages, lines, (page, line) => {
        expect(firstLoad({ ...page, autoplay: false }, line).posterMs).toBe(
          firstLoad({ ...page, clip: null }, line).posterMs,
        )
      }),
      { seed: 53, numRuns: 40 },
    )
  })
  it('does not wait where the whole clip came before it moved, and is later the heavier its head (seed 54)', () => {
    fc.assert(
      fc.property(pages, lines, (page, line) => {
        if (!page.clip) return
        const load = firstLoad(page, line)
        if (load.transfers.find(({ name }) => name === 'clip')!.doneMs <= load.motionMs!)
          expect(load.stalls).toBe(0)
        if (load.stalls === 0) expect(load.stalledMs).toBe(0)
        const heavier = firstLoad(
          { ...page, clip: { ...page.clip, headBytes: page.clip.headBytes + 200_000 } },
          line,
        )
        expect(heavier.motionMs!).toBeGreaterThanOrEqual(load.motionMs!)
      }),
      { seed: 54, numRuns: 40 },
    )
  })
  it('gets faster from preset to preset', () => {
    const posters = Object.values(LINES).map((line) => firstLoad(PAGE, line).posterMs)
    expect([...posters].sort((a, b) => b - a)).toEqual(posters)
  })
})
