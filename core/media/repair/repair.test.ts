import { readFile } from 'node:fs/promises'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { memorySource } from '../../bytes/ByteSource'
import { join, rebuild, reindex, fragmented, replaceStbl, withEdits } from '../../testing/movies'
import { inventTrack } from '../../testing/samples'
import { parseBoxes, wrapBox, writeBox } from '../isobmff/boxTree'
import { BOXES } from '../isobmff/boxes/registry'
import { writeMp4 } from '../isobmff/writeMp4'
import { binary, unsigned, writeWebm } from '../matroska/writeWebm'
import type { MediaFile } from '../MediaFile'
import { presentationOf } from '../presentation'
import { readMedia } from '../readMedia'
import { bytesOfPlan, joinPieces, type RepairOrder, type RepairPlan } from './RepairPlan'
import { planRepair } from './repairFile'

const SOUND = {
  channels: 1,
  sampleRate: 8000,
  pcm: Uint8Array.from({ length: 32_000 }, (_, at) => at % 251),
}
const ORDER: RepairOrder = {
  container: 'mp4',
  keepSound: true,
  startMs: null,
  endMs: null,
  strip: false,
}

async function read(bytes: Uint8Array): Promise<MediaFile> {
  const result = await readMedia(memorySource(bytes))
  if (!result.ok) throw result.error
  return result.value
}
async function plan(bytes: Uint8Array, order: Partial<RepairOrder> = {}): Promise<RepairPlan> {
  const planned = await planRepair(memorySource(bytes), { ...ORDER, ...order })
  if (!planned.ok) throw planned.error
  return planned.value
}
async function repair(bytes: Uint8Array, order: Partial<RepairOrder> = {}): Promise<Uint8Array> {
  const planned = await plan(bytes, order)
  const parts: Uint8Array[] = []
  for await (const part of bytesOfPlan(planned, memorySource(bytes))) parts.push(part)
  const joined = join(...parts)
  expect(joined.byteLength).toBe(planned.bytes)
  return joined
}
const codeOf = async (bytes: Uint8Array, order: Partial<RepairOrder>): Promise<string> =>
  planRepair(memorySource(bytes), { ...ORDER, ...order }).then((result) =>
    result.ok ? 'ok' : result.error.code,
  )

/** The coded frames shown, in order, as bytes, with their times in milliseconds. */
async function shown(bytes: Uint8Array): Promise<{ frames: string[]; times: number[] }> {
  const { video } = await read(bytes)
  const { order, times, timescale } = presentationOf(video)
  return {
    frames: order.map((sample) =>
      Buffer.from(
        bytes.subarray(
          video.samples.offsets[sample]!,
          video.samples.offsets[sample]! + video.samples.sizes[sample]!,
        ),
      ).toString('hex'),
    ),
    times: times.map((time) => Math.round((time * 1000) / timescale)),
  }
}

/** Index behind the data, as recorders write it. */
function indexLast(bytes: Uint8Array): Uint8Array {
  const [ftyp, moov, mdat] = parseBoxes(bytes, 0)
  const shift = -(moov!.payload.byteLength + 8)
  const moved = rebuild(wrapBox('moov', moov!.payload), (box) =>
    box.type === 'stco'
      ? writeBox('stco', BOXES.stco, {
          version: 0,
          flags: 0,
          offsets: Array.from(
            { length: (box.payload.byteLength - 8) / 4 },
            (_, at) =>
              new DataView(box.payload.buffer, box.payload.byteOffset).getUint32(8 + 4 * at) +
              shift,
          ),
        })
      : null,
  )
  return join(wrapBox('ftyp', ftyp!.payload), wrapBox('mdat', mdat!.payload), moved)
}

describe('repairing an MP4', () => {
  const both = writeMp4(inventTrack('h264', 48, [0, 24]), SOUND)

  it('puts the index first and copies every frame as it is', async () => {
    const last = indexLast(both)
    expect((await read(last)).indexFirst).toBe(false)
    const repaired = await repair(last)
    expect(await read(repaired)).toMatchObject({ indexFirst: true, audio: true })
    expect(await shown(repaired)).toEqual(await shown(both))
  })
  it('takes the sound out, and its bytes with it', async () => {
    const repaired = await repair(both, { keepSound: false })
    expect((await read(repaired)).audio).toBe(false)
    expect(both.byteLength - repaired.byteLength).toBeGreaterThan(SOUND.pcm.byteLength)
    expect(await shown(repaired)).toEqual(await shown(both))
  })
  it('keeps the sound’s own bytes where it stays', async () => {
    const repaired = await repair(indexLast(both))
    expect(Buffer.from(repaired).includes(Buffer.from(SOUND.pcm))).toBe(true)
  })
  it('starts a cut at the key frame before, and says where', async () => {
    const planned = await plan(both, { startMs: 1500, endMs: 1900, keepSound: false })
    expect(planned.startMs).toBe(1001)
    const { frames, times } = await shown(
      await repair(both, { startMs: 1500, endMs: 1900, keepSound: false }),
    )
    const whole = await shown(both)
    expect(frames).toEqual(whole.frames.slice(24, 24 + frames.length))
    expect([times[0], frames.length]).toEqual([0, 22])
  })
  it('starts at the first frame where no key frame lies later', async () => {
    expect((await plan(both, { startMs: 700, keepSound: false })).startMs).toBe(0)
  })
  it('cuts the sound to the picture', async () => {
    const file = await read(await repair(both, { startMs: 1001, endMs: 1501 }))
    expect(file.audio).toBe(true)
    // Half a second of 8 kHz in two bytes, give or take a sample at each end.
    expect(Math.abs(file.audioBytes - 8000)).toBeLessThanOrEqual(8)
  })
  it('keeps order and times of frames that are stored out of order', async () => {
    const offsets = Array.from({ length: 48 }, (_, index) => ({
      count: 1,
      offset: (index === 0 ? 1 : index % 2 === 1 ? 2 : 0) * 1001,
    }))
    const reordered = replaceStbl(
      writeMp4(inventTrack('h264', 48, [0, 24])),
      writeBox('ctts', BOXES.ctts, { version: 0, flags: 0, runs: offsets }),
    )
    expect(await shown(await repair(indexLast(reordered)))).toEqual(await shown(reordered))
  })
  it('keeps what an edit list hides, hidden', async () => {
    const edits = writeBox('elst', BOXES.elst, {
      version: 0,
      flags: 0,
      entries: [{ segmentDuration: 500, mediaTime: 2002, rateInteger: 1, rateFraction: 0 }],
    })
    const edited = withEdits(writeMp4(inventTrack('h264', 20)), wrapBox('edts', edits))
    const repaired = await repair(edited)
    expect((await shown(repaired)).frames).toEqual((await shown(edited)).frames)
  })
  it('gathers fragments into one index', async () => {
    const file = fragmented(inventTrack('h264', 30).frames.map((frame) => frame.data))
    const repaired = await repair(file)
    expect(parseBoxes(repaired, 0).map((box) => box.type)).toEqual(['ftyp', 'moov', 'mdat'])
    expect(await shown(repaired)).toEqual(await shown(file))
  })
  it('strips what tells of people and places, and keeps it otherwise', async () => {
    const grown = rebuild(both, (box) =>
      box.type === 'moov'
        ? wrapBox(
            'moov',
            ...box.children.map((child) => wrapBox(child.type, child.payload)),
            wrapBox('udta', wrapBox('\xa9xyz', Uint8Array.from([0, 4, 0, 0, 72, 101, 114, 101]))),
          )
        : null,
    )
    const tagged = reindex(both, grown)
    expect((await read(await repair(tagged))).personal).toEqual(['location'])
    const stripped = await repair(tagged, { strip: true })
    expect((await read(stripped)).personal).toEqual([])
    expect(Buffer.from(stripped).includes('Here')).toBe(false)
  })
  it('copies real files frame by frame, whatever is asked (seed 6)', async () => {
    const bytes = new Uint8Array(
      await readFile(new URL('../../../demo/files/tunnel-mouth.mp4', import.meta.url)),
    )
    const whole = await shown(bytes)
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 0, max: 7500 }),
        fc.integer({ min: 100, max: 8000 }),
        fc.boolean(),
        async (startMs, lengthMs, strip) => {
          const repaired = await repair(bytes, { startMs, endMs: startMs + lengthMs, strip })
          const { startMs: real } = await plan(bytes, { startMs, endMs: startMs + lengthMs, strip })
          const part = await shown(repaired)
          expect(real).toBeLessThanOrEqual(startMs)
          const from = whole.times.findIndex((time) => time >= real)
          expect(part.frames).toEqual(whole.frames.slice(from, from + part.frames.length))
          expect(part.frames.length).toBe(
            whole.times.filter((time) => time >= real && time < startMs + lengthMs).length,
          )
        },
      ),
      { seed: 6, numRuns: 12 },
    )
  })
})

describe('changing the container', () => {
  it.each(['vp9'] as const)(
    'carries %s from MP4 to WebM and back, every frame as it is',
    async (family) => {
      const mp4 = writeMp4(inventTrack(family, 60, [0, 30]))
      const webm = await repair(mp4, { container: 'webm' })
      expect((await read(webm)).container).toBe('webm')
      expect((await shown(webm)).frames).toEqual((await shown(mp4)).frames)
      const again = await repair(webm)
      expect((await read(again)).container).toBe('mp4')
      expect((await shown(again)).frames).toEqual((await shown(mp4)).frames)
      expect(
        (await shown(again)).times.every(
          (time, index) => Math.abs(time - (index * 1001) / 24) <= 1,
        ),
      ).toBe(true)
    },
  )
  it('keeps colour and size', async () => {
    const webm = await read(await repair(writeMp4(inventTrack('vp9', 10)), { container: 'webm' }))
    expect(webm.video).toMatchObject({
      colour: { primaries: 1, transfer: 1, matrix: 1, fullRange: false },
      displayWidth: 320,
      displayHeight: 180,
    })
  })
  it.each([
    [
      'H.264 in WebM',
      writeMp4(inventTrack('h264', 5)),
      { container: 'webm' },
      'media/repair-unsupported',
    ],
    [
      'sound along with it',
      writeMp4({ ...inventTrack('vp9', 5) }, SOUND),
      { container: 'webm' },
      'media/repair-unsupported',
    ],
    [
      'an end before the start',
      writeMp4(inventTrack('h264', 48)),
      { startMs: 1500, endMs: 1000 },
      'media/repair-range',
    ],
    [
      'a start behind the end',
      writeMp4(inventTrack('h264', 48)),
      { startMs: 60_000 },
      'media/repair-range',
    ],
    ['a text file', new TextEncoder().encode('no clip at all'), {}, 'media/unknown-format'],
  ] as const)('refuses %s', async (_, bytes, order, code) =>
    expect(await codeOf(bytes, order)).toBe(code),
  )
})

describe('repairing a WebM', () => {
  const webm = writeWebm(inventTrack('vp9', 90, [0, 40]))
  it('cuts at a key frame', async () => {
    const repaired = await repair(webm, { container: 'webm', startMs: 2000, endMs: 3000 })
    const { frames, times } = await shown(repaired)
    expect(frames[0]).toBe((await shown(webm)).frames[40])
    expect([times[0], (await plan(webm, { container: 'webm', startMs: 2000 })).startMs]).toEqual([
      0, 1668,
    ])
  })
  const withSound = (soundCodec = 'A_OPUS'): Uint8Array => {
    const text = (value: string): Uint8Array => new TextEncoder().encode(value)
    const entry = (
      number: number,
      type: number,
      codec: string,
      ...more: Uint8Array[]
    ): Uint8Array =>
      binary(
        'TrackEntry',
        unsigned('TrackNumber', number),
        unsigned('TrackType', type),
        binary('CodecID', text(codec)),
        ...more,
      )
    const tracks = binary(
      'Tracks',
      entry(2, 2, soundCodec),
      entry(
        1,
        1,
        'V_VP9',
        binary('Video', unsigned('PixelWidth', 320), unsigned('PixelHeight', 180)),
      ),
    )
    const block = (track: number, time: number, bytes: Uint8Array): Uint8Array =>
      binary('SimpleBlock', Uint8Array.from([0x80 | track, 0, time, 0x80]), bytes)
    const { frames } = inventTrack('vp9', 4, [0, 1, 2, 3])
    const blocks = frames.flatMap((frame, index) => [
      block(1, index * 40, frame.data),
      block(2, index * 40, Uint8Array.from([200, 201, index])),
    ])
    return join(
      binary('EBML', binary('DocType', text('webm'))),
      binary('Segment', tracks, binary('Cluster', unsigned('Timestamp', 0), ...blocks)),
    )
  }
  it('keeps no sound that WebM does not take', async () => {
    expect(await codeOf(withSound('A_AAC'), { container: 'webm' })).toBe('media/repair-unsupported')
    expect(await codeOf(withSound('A_AAC'), { container: 'webm', keepSound: false })).toBe('ok')
    expect((await read(await repair(withSound('A_AAC'), { container: 'mkv' }))).audio).toBe(true)
  })
  it('takes the sound out, or keeps its frames beside the picture', async () => {
    const silent = await repair(withSound(), { container: 'webm', keepSound: false })
    expect([
      (await read(silent)).audio,
      Buffer.from(silent).includes(Buffer.from([200, 201, 2])),
    ]).toEqual([false, false])
    const kept = await repair(withSound(), { container: 'webm' })
    expect([
      (await read(kept)).audio,
      Buffer.from(kept).includes(Buffer.from([200, 201, 2])),
    ]).toEqual([true, true])
    expect((await shown(kept)).frames).toEqual((await shown(withSound())).frames)
  })
})

describe('pieces', () => {
  it('that follow each other are copied in one run', () => {
    expect(
      joinPieces([
        { offset: 0, length: 5 },
        { offset: 5, length: 5 },
        { bytes: new Uint8Array(1) },
        { offset: 10, length: 1 },
        { offset: 20, length: 1 },
      ]),
    ).toEqual([
      { offset: 0, length: 10 },
      { bytes: new Uint8Array(1) },
      { offset: 10, length: 1 },
      { offset: 20, length: 1 },
    ])
  })
  it('end in a coded error where the old file is shorter than it said', async () => {
    const copy = async (): Promise<void> => {
      for await (const part of bytesOfPlan(
        { pieces: [{ offset: 0, length: 10 }] },
        memorySource(new Uint8Array(4)),
      ))
        expect(part.byteLength).toBeLessThanOrEqual(4)
    }
    await expect(copy()).rejects.toMatchObject({ code: 'media/truncated' })
  })
})
