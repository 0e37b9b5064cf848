import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { memorySource } from '../core/bytes/ByteSource'
import { plainSequence, sequenceFrom } from '../core/kinds/footage/footageSequence'
import { probe } from '../core/media/probe'
import { frameDifference } from '../core/picture/frameDifference'
import { RenderBrowser } from '../headless/RenderBrowser'
import { CLIPS, delivered } from './harness'

/* How delivered loops join and how their posters agree with them: measured on finished files. */

describe('the seam', () => {
  it('of a clip whose end does not match is told, and a blended one cannot be seen, composed and in the files', async () => {
    const range = ['--start', '2', '--end', '6', '--width', '640']
    const straight = await delivered('dusk-window.mov', ...range, '--formats', 'h264')
    expect(straight.manifest.base.seam!.kind).toBe('straight')
    expect(straight.manifest.base.seam!.ratio).toBeGreaterThan(4)
    expect(Math.min(...straight.manifest.clips.map((clip) => clip.seamRatio!))).toBeGreaterThan(4)

    const blended = await delivered('dusk-window.mov', ...range, '--seam', 'blended')
    const {
      base: { seam, loop },
      clips: files,
    } = blended.manifest
    expect(seam!.kind).toBe('blended')
    expect(seam!.ratio).toBeLessThanOrEqual(1.2)
    expect(seam!.deliveredRatio).toBeLessThanOrEqual(1.2)
    expect(loop.frames).toBe(96 - Math.round(seam!.overlapSeconds * 24))
    for (const clip of files) {
      const read = await probe(
        memorySource(new Uint8Array(await readFile(join(blended.out, clip.path)))),
      )
      if (!read.ok || read.value.kind !== 'clip') throw new Error(`${clip.path} is no clip`)
      expect(read.value.video).toMatchObject({
        frameCount: loop.frames,
        repeats: clip.repeats,
        averageFps: 24,
      })
    }
    expect(blended.err).toMatch(/the straight seam has \d+\.\d+: blended over/)
  })

  it('there and back shows both ends once', async () => {
    const { manifest: turned } = await delivered(
      'viaduct-crossing.mp4',
      '--start',
      '1',
      '--end',
      '2',
      '--width',
      '320',
      '--seam',
      'ping-pong',
      '--formats',
      'h264',
    )
    expect(turned.base.loop.frames).toBe(48)
    expect(turned.base.seam).toMatchObject({ kind: 'ping-pong', overlapSeconds: 0 })
    expect(turned.base.seam!.ratio).toBeLessThanOrEqual(1.2)
  })

  it('is found where the clip comes round by itself', async () => {
    const { manifest: found, err } = await delivered(
      'rain-platform.mp4',
      '--find-loop',
      '2-4.5',
      '--width',
      '320',
      '--formats',
      'h264',
    )
    expect(err).toMatch(/looking for loops of 2 to 4\.5 s\n {2}\d/)
    expect(found.base.loop.seconds).toBeGreaterThanOrEqual(1.95)
    expect(found.base.loop.seconds).toBeLessThanOrEqual(4.55)
    expect(found.base.seam!.ratio).toBeLessThanOrEqual(1.2)
    expect(found.base.seam!.deliveredRatio).toBeLessThanOrEqual(1.2)
  })
})

describe('posters', () => {
  it('as AVIF have the right colours in Chromium and in a decoder of another make', async () => {
    const composer = await RenderBrowser.start()
    try {
      for (const [clip, width] of [
        ['dusk-window.mov', 320],
        ['rain-platform.mp4', 320],
        ['archive-reel.mp4', 320],
      ] as const) {
        const file = join(CLIPS, clip)
        const height = (width * 9) / 16
        const plain = plainSequence({
          // Pictures are kept by what they are made from.
          sourceSha256: clip,
          size: { width: 1280, height: 720 },
          cut: { timescale: 1000, start: 2000, end: 4000 },
          frameRate: { num: 24, den: 1 },
          loops: true,
        })
        const seam = { kind: 'blended' as const, overlapSeconds: 0.5 }
        const sequence = sequenceFrom({ ...plain, loop: { ...plain.loop, seam } })
        const poster = await composer.render(file, {
          kind: 'poster',
          sequence,
          copyBlur: null,
          picture: { kind: 'first' },
          format: 'avif',
          width,
          height,
          maxBytes: 200_000,
          shared: null,
          encoder: null,
        })
        const composed = await composer.compose(
          file,
          { sequence, copyBlur: null, width, height },
          0,
        )
        const foreign = await sharp(poster.bytes)
          .ensureAlpha()
          .raw()
          .toBuffer({ resolveWithObject: true })
        expect([foreign.info.width, foreign.info.height]).toEqual([width, height])
        expect(
          frameDifference(composed.pixels, foreign.data),
          `${clip} elsewhere`,
        ).toBeLessThanOrEqual(3)
        const here = await composer.page.evaluate(async (base64) => {
          const picture = await createImageBitmap(
            await (await fetch(`data:image/avif;base64,${base64}`)).blob(),
          )
          const context = new OffscreenCanvas(picture.width, picture.height).getContext('2d')!
          context.drawImage(picture, 0, 0)
          return [...context.getImageData(0, 0, picture.width, picture.height).data]
        }, poster.bytes.toString('base64'))
        expect(
          frameDifference(composed.pixels, Uint8Array.from(here)),
          `${clip} in Chromium`,
        ).toBeLessThanOrEqual(3)
        expect(poster.facts).toMatchObject({ kind: 'poster', type: 'image/avif' })
        if (poster.facts.kind === 'poster') expect(poster.facts.swapDeltaE).toBeLessThanOrEqual(2)
        expect(await probe(memorySource(new Uint8Array(poster.bytes)))).toMatchObject({
          ok: true,
          value: { kind: 'image', format: 'avif', width, height },
        })
      }
    } finally {
      await composer.stop()
    }
  })

  it('may show another frame: the swap is then told', async () => {
    const options = [
      '--start',
      '2',
      '--end',
      '4',
      '--width',
      '320',
      '--budget',
      '100',
      '--formats',
      'h264',
    ]
    const [first, other] = [
      await delivered('archive-reel.mp4', ...options, '--poster', 'first'),
      await delivered('archive-reel.mp4', ...options, '--poster', '3.2'),
    ]
    expect(first.manifest.poster).toMatchObject({ picture: 'first' })
    expect(first.manifest.poster.swapDeltaE).toBeLessThanOrEqual(2)
    expect(other.manifest.poster).toMatchObject({ picture: 'frame' })
    expect(other.manifest.poster.swapDeltaE).toBeGreaterThan(2)
    expect(other.manifest.posters.map((poster) => poster.type)).toEqual([
      'image/avif',
      'image/webp',
      'image/jpeg',
    ])
    for (const poster of other.manifest.posters) {
      expect(poster.bytes).toBeLessThanOrEqual(poster.maxBytes)
      expect(poster.ssim).toBeGreaterThan(0.9)
    }
  })
})
