import type { FootageSequence } from '../core/kinds/footage/footageSequence'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ClipRecipe } from '../core/backdrop/recipe'
import { plainSequence, sequenceFrom } from '../core/kinds/footage/footageSequence'
import { toned } from '../core/kinds/Sequence'
import { tonedColor } from '../core/tone/applyTone'
import { chooseOverlap } from '../core/loop/chooseOverlap'
import { blendWeight, type LoopSettings } from '../core/loop/framePlan'
import { frameDifference } from '../core/picture/frameDifference'
import { PLAIN_SHAPE } from '../core/picture/pictureShape'
import { RenderBrowser } from '../headless/RenderBrowser'
import { CLIPS } from './harness'

/*
 * What the worker makes of real clips, frame by frame: composed in a real Chromium, held against
 * plain arithmetic here.
 */

let browser: RenderBrowser
beforeAll(async () => {
  browser = await RenderBrowser.start()
})
afterAll(() => browser?.stop())

const REEL = join(CLIPS, 'archive-reel.mp4')
const SEQUENCE = plainSequence({
  size: { width: 1280, height: 720 },
  cut: { timescale: 25, start: 25, end: 50 },
  frameRate: { num: 25, den: 1 },
  loops: true,
})
const RECIPE: ClipRecipe = {
  kind: 'proof',
  sequence: SEQUENCE,
  copyBlur: null,
  family: 'h264',
  width: 320,
  height: 180,
  noiseReduction: 0,
  goal: null,
  encoder: null,
}
const looped = (change: Partial<LoopSettings>): ClipRecipe => ({
  ...RECIPE,
  sequence: sequenceFrom({ ...SEQUENCE, loop: { ...SEQUENCE.loop, ...change } }),
})
const frame = async (k: number, change: Partial<LoopSettings> = {}): Promise<Buffer> =>
  (await browser.compose(REEL, looped(change), k)).pixels
const mixed = (under: Buffer, over: Buffer, weight: number): Uint8Array =>
  Uint8Array.from(under, (value, at) => Math.round(value * (1 - weight) + over[at]! * weight))

describe('composed frames', () => {
  it('of a blended seam are the end with the start over it, by the weight of the plan', async () => {
    const seam = { kind: 'blended' as const, overlapSeconds: 0.4 }
    // 25 frames, ten of them overlap: frame k lies over frame 15 + k.
    for (const k of [1, 5, 9]) {
      const expected = mixed(await frame(15 + k), await frame(k), blendWeight(k / 10))
      expect(frameDifference(await frame(k, { seam }), expected), `frame ${k}`).toBeLessThan(0.8)
    }
    expect((await frame(0, { seam })).equals(await frame(15))).toBe(true)
    expect((await frame(14, { seam })).equals(await frame(14))).toBe(true)
  })
  it('have the tone of their sequence, pixel by pixel', async () => {
    const tone = {
      brightness: 0.7,
      contrast: 1.3,
      saturation: 0.4,
      tint: { color: '#2050a0', strength: 0.5 },
    }
    const recipe = { ...RECIPE, sequence: toned(SEQUENCE, tone) }
    const own = (await browser.compose(REEL, recipe, 5)).pixels
    const plain = await frame(5)
    const toneOf = tonedColor(tone)
    const wanted = Buffer.from(plain)
    for (let at = 0; at < plain.length; at += 4) {
      const { r, g, b } = toneOf({ r: plain[at]!, g: plain[at + 1]!, b: plain[at + 2]! })
      wanted.set([r, g, b].map(Math.round), at)
    }
    expect(frameDifference(plain, wanted)).toBeGreaterThan(10)
    // Chroma is shared by four pixels, before and after.
    expect(frameDifference(own, wanted)).toBeLessThan(1.5)
  })
  it('there and back are the same going as coming', async () => {
    const seam = { kind: 'ping-pong' as const, overlapSeconds: 0 }
    for (const [going, coming] of [
      [23, 25],
      [10, 38],
      [1, 47],
    ] as const)
      expect(
        (await frame(coming, { seam })).equals(await frame(going, { seam })),
        `${going} and ${coming}`,
      ).toBe(true)
    expect((await frame(24, { seam })).equals(await frame(24))).toBe(true)
  })
  it('in blended slow motion lie between their neighbours', async () => {
    const slow = { speed: 0.5, blendFrames: true }
    expect((await frame(8, slow)).equals(await frame(4))).toBe(true)
    expect(
      frameDifference(await frame(9, slow), mixed(await frame(4), await frame(5), 0.5)),
    ).toBeLessThan(0.8)
    expect((await frame(9, { speed: 0.5 })).equals(await frame(4))).toBe(true)
  })
  it('show the part that a crop leaves, turned and mirrored', async () => {
    const whole = await browser.compose(REEL, { ...RECIPE, width: 1280, height: 720 }, 3)
    // The right half, upright: then turned by a quarter clockwise, then mirrored.
    const crop = { x: 0.5, y: 0, width: 0.5, height: 1 }
    const shape = { ...PLAIN_SHAPE, crop, quarterTurns: 1, mirrored: true }
    const part = await browser.compose(
      REEL,
      { ...RECIPE, sequence: sequenceFrom({ ...SEQUENCE, shape }), width: 720, height: 640 },
      3,
    )
    const expected = new Uint8Array(720 * 640 * 4)
    for (let y = 0; y < 640; y++) {
      for (let x = 0; x < 720; x++) {
        // Mirrored: from the right. Turned clockwise: what was at (u, v) of 640 × 720 came to (719
        // − v, u).
        const [u, v] = [y, x]
        for (let channel = 0; channel < 4; channel++)
          expected[(y * 720 + x) * 4 + channel] = whole.pixels[(v * 1280 + 640 + u) * 4 + channel]!
      }
    }
    expect(frameDifference(part.pixels, expected)).toBeLessThan(0.3)
  })
})

describe('single frames', () => {
  // Far from key frames, to and fro, and neighbours: as a hand asks for them.
  const numbers = [100, 101, 102, 99, 98, 150, 60, 61, 174, 0, 20]
  it('are exactly those that reading in order gives, in whatever order they are asked for', async () => {
    const sorted = [...numbers].sort((a, b) => a - b)
    const inOrder = await browser.frames(REEL, sorted, 'in order')
    const asked = await browser.frames(REEL, numbers, 'exact')
    numbers.forEach((number, at) =>
      expect(asked[at]!.equals(inOrder[sorted.indexOf(number)]!), `frame ${number}`).toBe(true),
    )
  })
  it('of the scrub proxy are the same frames, number for number', async () => {
    const exact = await browser.frames(REEL, numbers, 'exact')
    const proxied = await browser.frames(REEL, numbers, 'proxy')
    const off = numbers.map((_, at) => frameDifference(exact[at]!, proxied[at]!))
    expect(Math.max(...off), off.map((each) => each.toFixed(2)).join()).toBeLessThan(1.2)
    // Frames 100, 101 and 102: each is nearest to its own.
    for (const [one, other] of [
      [0, 1],
      [1, 0],
      [1, 2],
      [2, 1],
    ] as const)
      expect(frameDifference(proxied[one]!, exact[other]!)).toBeGreaterThan(1.5 * off[one]!)
  })
  it('come from a GIF and a WebM as well', async () => {
    for (const clip of ['signal-blink.gif', 'aurora-fjord.webm']) {
      const file = join(CLIPS, clip)
      const [inOrder, asked] = [
        await browser.frames(file, [3, 17, 30], 'in order'),
        await browser.frames(file, [30, 3, 17], 'exact'),
      ]
      expect(
        [
          asked[1]!.equals(inOrder[0]!),
          asked[2]!.equals(inOrder[1]!),
          asked[0]!.equals(inOrder[2]!),
        ],
        clip,
      ).toEqual([true, true, true])
    }
  })
})

const sequenceOf = ({ sequence }: ClipRecipe): FootageSequence => sequence as FootageSequence

describe('the motion of a cut', () => {
  it('is measured frame by frame, and suggests a blend that keeps to its bounds', async () => {
    const motion = await browser.cutMotion(REEL, sequenceOf(RECIPE))
    expect(motion.steps).toHaveLength(24)
    expect(motion.steps.every((step) => step > 0)).toBe(true)
    expect(motion.straightRatio).toBeGreaterThan(1.2)
    const overlap = chooseOverlap(motion, 25)
    expect(overlap).toBeGreaterThanOrEqual(0.04)
    expect(overlap).toBeLessThanOrEqual(1 / 3 + 0.01)
  })
  it('counts frames that are shown twice as no motion', async () => {
    const { steps } = await browser.cutMotion(REEL, sequenceOf(looped({ speed: 0.5 })))
    expect(steps.filter((step) => step === 0)).toHaveLength(25)
  })
})
