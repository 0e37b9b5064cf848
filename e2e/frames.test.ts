import { mkdtemp, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeWebm } from '../core/media/matroska/writeWebm'
import { RenderBrowser } from '../headless/RenderBrowser'
import { delivered } from './harness'
import { encodeNumbered, numberIn } from './numberedClip'

/* Which source frames a delivered file shows: read from clips that carry their frame number. */

let renderer: RenderBrowser
beforeAll(async () => {
  renderer = await RenderBrowser.start()
})
afterAll(() => renderer?.stop())

/** The frame numbers that a file shows, one after another. */
async function numbersIn(file: string, count: number): Promise<number[]> {
  const pictures = await renderer.frames(
    file,
    Array.from({ length: count }, (_, index) => index),
    'in order',
  )
  return pictures.map((pixels) => numberIn(pixels, 64, 36))
}

describe('a delivered file', () => {
  it.each([
    ['24', { num: 24, den: 1 }],
    ['23.976', { num: 24000, den: 1001 }],
    ['30', { num: 30, den: 1 }],
    ['17', { num: 17, den: 1 }],
  ])('shows every frame of a WebM of %s frames a second once, in order', async (_, rate) => {
    const count = 60
    const folder = await mkdtemp(join(tmpdir(), 'telon-frames-'))
    const clip = join(folder, 'numbered.webm')
    await writeFile(clip, writeWebm(await encodeNumbered(renderer.page, count, rate)))
    expect(await numbersIn(clip, count)).toEqual(Array.from({ length: count }, (_, n) => n))
    const options = ['--width', '320', '--formats', 'h264', '--budget', '400']
    const { manifest, out } = await delivered(clip, ...options)
    expect(manifest.base.loop).toMatchObject({ frames: count, frameRate: rate })
    const shown = await numbersIn(join(out, manifest.clips[0]!.path), count)
    expect(shown).toEqual(Array.from({ length: count }, (_, n) => n))
  })

  it('shows every second frame at half the rate', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'telon-frames-'))
    const clip = join(folder, 'numbered.webm')
    const track = await encodeNumbered(renderer.page, 120, { num: 60000, den: 1001 })
    await writeFile(clip, writeWebm(track))
    const options = ['--width', '320', '--formats', 'h264', '--budget', '400']
    const { manifest, out } = await delivered(clip, ...options)
    expect(manifest.base.loop).toMatchObject({ frames: 60, frameRate: { num: 60000, den: 2002 } })
    const shown = await numbersIn(join(out, manifest.clips[0]!.path), 60)
    expect(shown).toEqual(Array.from({ length: 60 }, (_, n) => 2 * n))
  })
})
