import { mkdtemp, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { EncodedTrack } from '../core/media/EncodedTrack'
import { wrapBox } from '../core/media/isobmff/boxTree'
import { writeMp4 } from '../core/media/isobmff/writeMp4'
import { writeWebm } from '../core/media/matroska/writeWebm'
import { withSampleEntry } from '../core/testing/movies'
import { AVC_RECORD } from '../core/testing/samples'
import { writeAlphaWebm } from '../core/testing/writeAlphaWebm'
import { writeGif } from '../core/testing/writeGif'
import { RenderBrowser } from '../headless/RenderBrowser'
import { delivered, telon } from './harness'
import { encodeJpegs, encodeNumbered, numberIn } from './numberedClip'

/* Small made clips of the classes that cameras and editors write: decoded, or refused in words. */

const RATE = { num: 24, den: 1 }
let renderer: RenderBrowser
let folder: string
beforeAll(async () => {
  renderer = await RenderBrowser.start()
  folder = await mkdtemp(join(tmpdir(), 'telon-classes-'))
})
afterAll(() => renderer?.stop())

async function save(name: string, bytes: Uint8Array): Promise<string> {
  const path = join(folder, name)
  await writeFile(path, bytes)
  return path
}

const upTo = (count: number): number[] => Array.from({ length: count }, (_, number) => number)

async function numbersIn(file: string, numbers: readonly number[]): Promise<number[]> {
  const pictures = await renderer.frames(file, numbers, 'in order')
  return pictures.map((pixels) => numberIn(pixels, 64, 36))
}

/** A pixel of a 64 × 36 picture. */
const pixelOf = (pixels: Buffer, x: number, y: number): number[] => [
  ...pixels.subarray((y * 64 + x) * 4, (y * 64 + x) * 4 + 3),
]

describe('transparent clips', () => {
  let clip: string
  beforeAll(async () => {
    const track = await encodeNumbered(renderer.page, 12, RATE)
    const alpha = await encodeNumbered(renderer.page, 12, RATE, () => 0b1111)
    // Opaque where the alpha's bits are set: the four bars on the left.
    clip = await save(
      'alpha.webm',
      writeAlphaWebm(
        track,
        alpha.frames.map(({ data }) => data),
      ),
    )
  })
  it('are filled with white, in order and asked for one by one', async () => {
    const numbers = [0, 7, 11]
    for (const how of ['in order', 'exact'] as const) {
      const pictures = await renderer.frames(clip, numbers, how)
      pictures.forEach((pixels, index) => {
        expect(numberIn(pixels, 64, 36) & 0b1111).toBe(numbers[index]! & 0b1111)
        expect(Math.min(...pixelOf(pixels, 60, 18))).toBeGreaterThan(245)
      })
    }
  })
  it('are delivered on the colour that was chosen, which probe announces', async () => {
    const options = ['--width', '320', '--formats', 'h264', '--budget', '400']
    const { manifest, out } = await delivered(clip, ...options, '--matte', '#b0305a')
    const [picture] = await renderer.frames(join(out, manifest.clips[0]!.path), [7], 'in order')
    const [r, g, b] = pixelOf(picture!, 60, 18)
    expect(Math.abs(r! - 0xb0) + Math.abs(g! - 0x30) + Math.abs(b! - 0x5a)).toBeLessThan(20)
    expect((await telon('probe', clip)).out).toContain('"transparent"')
  })
  it('include GIFs', async () => {
    const picture = {
      width: 64,
      height: 36,
      indexes: Uint8Array.from({ length: 64 * 36 }, (_, at) => (at % 64 < 32 ? 1 : 0)),
      delayCs: 10,
      transparent: 0,
    }
    const palette = [
      [0, 0, 0],
      [200, 40, 40],
    ] as const
    const gif = await save('alpha.gif', writeGif(64, 36, palette, [picture, picture, picture]))
    const [pixels] = await renderer.frames(gif, [1], 'in order')
    expect(pixelOf(pixels!, 8, 8)[1]).toBeLessThan(60)
    expect(Math.min(...pixelOf(pixels!, 56, 8))).toBeGreaterThan(245)
  })
  it('take a colour only as six digits', async () => {
    const { code, err } = await telon('deliver', clip, '--out', folder, '--matte', 'red')
    expect(code).toBe(2)
    expect(err).toMatch(/#1b2a4c/)
  })
})

describe('damage in the middle', () => {
  const count = 90
  let damaged: string
  beforeAll(async () => {
    const track = await encodeNumbered(renderer.page, count, RATE)
    const frames = track.frames.map((frame, number) =>
      // From here on nothing decodes until the next key frame, number 60.
      number === 40 ? { ...frame, data: new Uint8Array(frame.data.byteLength) } : frame,
    )
    damaged = await save('damaged.webm', writeWebm({ ...track, frames }))
  })
  it('holds the last good frame until the next that decodes', async () => {
    const held = upTo(count).map((number) => (number >= 40 && number < 60 ? 39 : number))
    expect(await numbersIn(damaged, upTo(count))).toEqual(held)
    expect(await numbersIn(damaged, [45, 50])).toEqual([39, 39])
  })
  it('is counted, with its place', async () => {
    const { analysis } = await renderer.analyse(damaged)
    expect(analysis!.missing).toMatchObject({ frames: 20 })
    expect(analysis!.missing!.fromMs).toBeCloseTo(40_000 / 24, -1)
  })
  it('does not stop a delivery', async () => {
    const options = ['--width', '320', '--formats', 'h264', '--budget', '400']
    const { manifest } = await delivered(damaged, ...options, '--start', '1.75', '--end', '2.4')
    expect(manifest.base.loop.frames).toBe(16)
  })
})

describe('Motion JPEG', () => {
  it('is decoded picture by picture', async () => {
    const track: EncodedTrack = {
      ...(await encodeNumbered(renderer.page, 1, RATE)),
      // Only the entry, which is replaced, depends on the family.
      family: 'h264',
      description: AVC_RECORD,
      frames: (await encodeJpegs(renderer.page, 10)).map((data) => ({ data, key: true })),
    }
    const clip = await save('jpegs.mov', withSampleEntry(writeMp4(track), 'jpeg'))
    expect(await numbersIn(clip, upTo(10))).toEqual(upTo(10))
  })
})

describe('codecs that no browser here decodes', () => {
  it.each([
    ['apch', 'ProRes 422 HQ', []],
    ['mp4v', 'MPEG-4 Part 2', []],
    ['hvc1', 'HEVC', [wrapBox('hvcC', Uint8Array.from([1, ...new Uint8Array(22)]))]],
  ])('%s is named by probe and by deliver, in a sentence', async (type, name, boxes) => {
    const track = await encodeNumbered(renderer.page, 10, RATE)
    const clip = await save(`${type}.mov`, withSampleEntry(writeMp4(track), type, ...boxes))
    const probed = await telon('probe', clip)
    expect(probed.code).toBe(1)
    const line = JSON.parse(probed.out) as { error: { message: string } }
    expect(line.error.message).toMatch(new RegExp(`${name}.*H\\.264`))
    const { code, err } = await telon('deliver', clip, '--out', join(folder, `out-${type}`))
    expect(code).toBe(1)
    expect(err).toContain(line.error.message)
    expect(err.trim().split('\n')).toHaveLength(1)
  })
})
