import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { memorySource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { AVC_SHOWN, AVC_STREAM } from '../../testing/avcStream'
import { mutate } from '../../testing/fuzz'
import { inventTrack, seededNumbers, VP9_KEY } from '../../testing/samples'
import { avcNals } from '../codecs/h264'
import { presentationDelays } from '../EncodedTrack'
import { writeMp4 } from '../isobmff/writeMp4'
import { presentationOf } from '../presentation'
import { readMedia } from '../readMedia'
import { withPlainIndex } from '../withPlainIndex'
import { readAnnexB, splitAnnexB } from './readAnnexB'
import { readIvf } from './readIvf'
import { trackOfStream } from './trackOfStream'

/** An IVF file with these frames, as encoder programs write it. */
function ivf(...frames: Uint8Array[]): Uint8Array {
  const bytes = new Uint8Array(32 + frames.reduce((sum, frame) => sum + 12 + frame.byteLength, 0))
  const view = new DataView(bytes.buffer)
  bytes.set([...'DKIF'].map((letter) => letter.charCodeAt(0)))
  view.setUint16(6, 32, true)
  let at = 32
  frames.forEach((frame, index) => {
    view.setUint32(at, frame.byteLength, true)
    view.setUint32(at + 4, index, true)
    bytes.set(frame, at + 12)
    at += 12 + frame.byteLength
  })
  return bytes
}

const code = (read: () => unknown): string => {
  try {
    read()
    return 'read'
  } catch (error) {
    if (error instanceof ContainerError) return error.code
    throw error
  }
}

const avcTrack = () =>
  trackOfStream(AVC_STREAM, 'annexb', {
    family: 'h264',
    width: 48,
    height: 48,
    frameRate: { num: 25, den: 1 },
    frames: 13,
    colour: { primaries: 1, transfer: 1, matrix: 1 },
  })

async function reread(bytes: Uint8Array) {
  const read = await readMedia(memorySource(bytes))
  if (!read.ok) throw read.error
  return read.value
}

describe('an H.264 byte stream', () => {
  const stream = readAnnexB(AVC_STREAM)
  it('has its pictures in order of decoding, each with its place among those shown', () =>
    expect(stream.frames.map(({ shown }) => shown)).toEqual(AVC_SHOWN))
  it('begins with its only key frame', () =>
    expect(stream.frames.map(({ key }) => key)).toEqual(AVC_SHOWN.map((shown) => shown === 0)))
  it('keeps slices alone in samples: parameters go to the configuration', () => {
    for (const { data } of stream.frames)
      for (const nal of avcNals(data, 4)) expect([1, 5]).toContain(nal[0]! & 31)
    const [sps, pps] = splitAnnexB(AVC_STREAM)
    // Version, profile, compatibility, level, lengths of 4 bytes, one set of each.
    expect([...stream.description.subarray(0, 6)]).toEqual([1, ...sps!.subarray(1, 4), 0xff, 0xe1])
    const text = (bytes: Uint8Array): string => bytes.join(',')
    expect(text(stream.description)).toContain(text(sps!))
    expect(text(stream.description)).toContain(text(pps!))
  })
  it('leaves out what is no picture, wherever it stands', () => {
    const remark = Uint8Array.from([0, 0, 1, 6, 5, 2, 88, 88, 0x80])
    const [sps, pps, ...slices] = splitAnnexB(AVC_STREAM)
    const start = Uint8Array.from([0, 0, 0, 1])
    const parts = [remark, sps!, remark, pps!, ...slices.flatMap((slice) => [remark, slice])]
    const joined = Uint8Array.from(
      parts.flatMap((part) => (part === remark ? [...part] : [...start, ...part])),
    )
    expect(readAnnexB(joined).frames).toEqual(stream.frames)
  })
  it('joins slices of one picture', () => {
    const [sps, pps, idr] = splitAnnexB(AVC_STREAM)
    // first_mb_in_slice 1 in place of 0: codes 010 and 1.
    const second = idr!.slice()
    second[1] = (0b010 << 5) | (second[1]! >> 3)
    const start = [0, 0, 1]
    const joined = Uint8Array.from(
      [sps!, pps!, idr!, second].flatMap((part) => [...start, ...part]),
    )
    expect(readAnnexB(joined).frames).toHaveLength(1)
    expect(avcNals(readAnnexB(joined).frames[0]!.data, 4)).toHaveLength(2)
  })
  it.each([
    ['nothing', new Uint8Array(0)],
    ['other bytes', Uint8Array.from([1, 2, 3, 4, 5, 6, 7, 8])],
    ['parameters alone', AVC_STREAM.subarray(0, 40)],
    ['pictures without parameters', Uint8Array.from([0, 0, 1, 0x65, 0x88, 0x84])],
  ])('is refused where it is %s', (_, bytes) =>
    expect(code(() => readAnnexB(bytes))).toMatch(/^media\/(bad-value|truncated)$/),
  )
  it('ends in frames or a coded error for any damage', () => {
    const numbers = seededNumbers(23)
    const outcomes = new Set<string>()
    for (let mutant = 0; mutant < 4_000; mutant++)
      outcomes.add(code(() => readAnnexB(mutate(AVC_STREAM, numbers))))
    expect([...outcomes].sort()).toEqual(expect.arrayContaining(['media/bad-value', 'read']))
  })
  it('orders any pyramid as its counts say, also where they wrap', () =>
    fc.assert(
      fc.property(fc.shuffledSubarray([0, 1, 2, 3, 4, 5, 6], { minLength: 7 }), (order) => {
        const { offsets, delay } = presentationDelays(
          order.map((shown) => ({ data: new Uint8Array(1), key: false, shown })),
        )
        // Each is shown after it is decoded, and all at different times that follow each other.
        expect(Math.min(...offsets)).toBeGreaterThanOrEqual(0)
        expect(offsets.map((offset, index) => index + offset - delay)).toEqual(order)
      }),
    ))
})

describe('an IVF stream', () => {
  it('gives its frames', () =>
    expect(readIvf(ivf(VP9_KEY, Uint8Array.of(7, 8), new Uint8Array(0)))).toEqual([
      VP9_KEY,
      Uint8Array.of(7, 8),
      new Uint8Array(0),
    ]))
  it('never reads beyond its end', () => {
    const whole = ivf(VP9_KEY, Uint8Array.of(7, 8))
    for (let length = 0; length < whole.byteLength; length++)
      expect(code(() => readIvf(whole.subarray(0, length)))).toMatch(
        length === 32 || length === 44 + VP9_KEY.byteLength ? /^read$/ : /^media\//,
      )
    new DataView(whole.buffer).setUint32(32, 0xffff_fff0, true)
    expect(code(() => readIvf(whole))).toBe('media/truncated')
  })
  it('ends in frames or a coded error for any damage', () => {
    const numbers = seededNumbers(24)
    for (let mutant = 0; mutant < 2_000; mutant++)
      expect(code(() => readIvf(mutate(ivf(VP9_KEY, VP9_KEY), numbers)))).toMatch(/read|media\//)
  })
  it('is refused with other pictures than went in, or without a key frame first', () => {
    const facts = {
      family: 'vp9',
      width: 320,
      height: 180,
      frameRate: { num: 25, den: 1 },
      colour: { primaries: 1, transfer: 1, matrix: 1 },
    } as const
    const bytes = ivf(VP9_KEY, Uint8Array.of(0x86, 0))
    expect(
      trackOfStream(bytes, 'ivf', { ...facts, frames: 2 }).frames.map(({ key }) => key),
    ).toEqual([true, false])
    expect(code(() => trackOfStream(bytes, 'ivf', { ...facts, frames: 3 }))).toBe('media/bad-value')
    expect(
      code(() => trackOfStream(ivf(Uint8Array.of(0x86, 0)), 'ivf', { ...facts, frames: 1 })),
    ).toBe('media/bad-value')
  })
})

describe('an MP4 of reordered frames', () => {
  it('shows them in their order from zero on, as often as its index lists the loop', async () => {
    const { video } = await reread(writeMp4(avcTrack(), null, 5))
    expect(video.repeats).toBe(5)
    const { order, times, length } = presentationOf(video)
    expect(order.map((sample) => AVC_SHOWN[sample])).toEqual(AVC_SHOWN.map((_, place) => place))
    expect(times).toEqual(AVC_SHOWN.map((_, place) => place))
    expect(length).toBe(13)
  })
  it('keeps their order when its index is made plain', async () => {
    const plain = await withPlainIndex(writeMp4(avcTrack(), null, 5))
    expect(plain).toEqual(writeMp4(avcTrack()))
  })
  it('says nothing of order where there is none', () => {
    const text = String.fromCharCode(...writeMp4(inventTrack('h264', 20, [0])))
    expect(text).not.toContain('ctts')
    expect(text).not.toContain('elst')
    expect(String.fromCharCode(...writeMp4(avcTrack()))).toContain('ctts')
  })
})
