import { afterAll, describe, expect, it } from 'vitest'
import { memorySource, type ByteSource } from '../../core/bytes/ByteSource'
import { readClip } from '../testing/clip'
import { FileProber } from './FileProber'

const probers: FileProber[] = []
const make = (limits: ConstructorParameters<typeof FileProber>[0] = {}): FileProber => {
  const prober = new FileProber(limits)
  probers.push(prober)
  return prober
}
afterAll(() => Promise.all(probers.map((prober) => prober.close())))

const NO_CLIP = memorySource(Buffer.from('just a text that is no clip at all'))

/**
 * A small MP4 that states a million frames of one shared size: its index takes a moment to go
 * through and fills memory. Boxes by ISO/IEC 14496-12.
 */
function hostileClip(frames: number): ByteSource {
  const box = (type: string, ...content: (Buffer | number[])[]): Buffer => {
    const body = Buffer.concat(content.map((part) => Buffer.from(part)))
    const head = Buffer.alloc(8)
    head.writeUInt32BE(body.byteLength + 8)
    head.write(type, 4, 'latin1')
    return Buffer.concat([head, body])
  }
  const u32 = (...values: number[]): Buffer => {
    const bytes = Buffer.alloc(values.length * 4)
    values.forEach((value, at) => bytes.writeUInt32BE(value, at * 4))
    return bytes
  }
  const tkhd = box(
    'tkhd',
    u32(7, 0, 0, 1, 0, frames, 0, 0, 0, 0),
    u32(0x10000, 0, 0, 0, 0x10000, 0, 0, 0, 0x40000000),
    u32(640 << 16, 360 << 16),
  )
  const mdhd = box('mdhd', u32(0, 0, 0, 25, frames), [0x55, 0xc4, 0, 0])
  const hdlr = box('hdlr', u32(0, 0), Buffer.from('vide'), u32(0, 0, 0), [0])
  const vp08 = box(
    'vp08',
    Buffer.alloc(6),
    [0, 1],
    Buffer.alloc(16),
    [2, 128, 1, 104],
    Buffer.alloc(50),
  )
  const stbl = box(
    'stbl',
    box('stsd', u32(0, 1), vp08),
    box('stts', u32(0, 1, frames, 1)),
    box('stsz', u32(0, 1, frames)),
    box('stsc', u32(0, 1, 1, frames, 1)),
    box('stco', u32(0, 1, 8)),
  )
  const minf = box('minf', box('vmhd', u32(1, 0, 0)), stbl)
  const moov = box(
    'moov',
    box(
      'mvhd',
      u32(0, 0, 0, 25, frames, 0x10000),
      [1, 0],
      Buffer.alloc(10),
      u32(0x10000, 0, 0, 0, 0x10000, 0, 0, 0, 0x40000000),
      Buffer.alloc(24),
      u32(2),
    ),
    box('trak', tkhd, box('mdia', mdhd, hdlr, minf)),
  )
  const bytes = Buffer.concat([box('ftyp', Buffer.from('isom'), u32(0), Buffer.from('isom')), moov])
  // The samples would lie in bytes that no one sent: the size alone is claimed.
  return {
    size: 64 + frames,
    read: async (offset, length) =>
      new Uint8Array(
        Buffer.concat([
          bytes,
          Buffer.alloc(Math.max(0, offset + length - bytes.byteLength)),
        ]).subarray(offset, offset + length),
      ),
  }
}

describe('reading foreign files in threads', () => {
  it('gives what the core’s readers give, one file after another and side by side', async () => {
    const prober = make({ threads: 2 })
    const clip = memorySource(await readClip())
    const results = await Promise.all(
      Array.from({ length: 8 }, (_, index) => prober.probe(index % 2 === 0 ? clip : NO_CLIP)),
    )
    expect(results.map((result) => (result.ok ? result.value.kind : result.error.code))).toEqual(
      Array.from({ length: 4 }, () => ['clip', 'media/unknown-format']).flat(),
    )
  })
  it('ends a file that never comes to its end, and goes on with the next', async () => {
    const prober = make({ threads: 1, totalMs: 300 })
    const silent: ByteSource = { size: 1000, read: () => new Promise(() => undefined) }
    expect(await prober.probe(silent)).toEqual({
      ok: false,
      error: { code: 'media/index-too-large', subject: '' },
    })
    expect((await prober.probe(NO_CLIP)).ok).toBe(false)
  })
  it('does not count the time of waiting for bytes as computing', async () => {
    const prober = make({ threads: 1, computeMs: 1500, totalMs: 20_000 })
    const clip = await readClip()
    const slow: ByteSource = {
      size: clip.byteLength,
      read: async (offset, length) => {
        await new Promise((resolve) => setTimeout(resolve, 700))
        return clip.subarray(offset, offset + length)
      },
    }
    expect((await prober.probe(slow)).ok).toBe(true)
  })
  it('ends a file that computes for too long or fills the memory of its thread, while the event loop goes on', async () => {
    const prober = make({ threads: 1, computeMs: 5000, heapMb: 24 })
    let longestPause = 0
    let last = performance.now()
    const timer = setInterval(() => {
      longestPause = Math.max(longestPause, performance.now() - last)
      last = performance.now()
    }, 5)
    const refused = await prober.probe(hostileClip(999_000))
    clearInterval(timer)
    expect(refused).toEqual({ ok: false, error: { code: 'media/index-too-large', subject: '' } })
    expect(longestPause).toBeLessThan(1000)
    expect((await prober.probe(memorySource(await readClip()))).ok).toBe(true)
  })
  it('refuses an index that states more frames than any clip has', async () => {
    const prober = make()
    const refused = await prober.probe(hostileClip(3_000_000))
    expect(refused).toMatchObject({ ok: false, error: { code: 'media/index-too-large' } })
  })
  it('tells of bytes that cannot be read as what they are: no fault of the file', async () => {
    const broken: ByteSource = {
      size: 1000,
      read: () => Promise.reject(new Error('the database is gone')),
    }
    await expect(make().probe(broken)).rejects.toThrow('the database is gone')
  })
})
