import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { writeMp4 } from '../../core/media/isobmff/writeMp4'
import { inventTrack } from '../../core/testing/samples'
import { PlainClips } from './PlainClips'

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')

/** Stored files in two parts each, with how often one was read. */
function stored(...files: Uint8Array[]) {
  const all = new Map(files.map((bytes) => [sha256(bytes), bytes]))
  const read: string[] = []
  return {
    read,
    findBySha256: async (digest: string) => {
      const bytes = all.get(digest)
      return bytes ? { id: digest, sha256: digest, size: bytes.byteLength } : null
    },
    stream: async function* (id: string) {
      read.push(id)
      const bytes = Buffer.from(all.get(id)!)
      yield bytes.subarray(0, 100)
      yield bytes.subarray(100)
    },
  }
}

describe('clips with a plain index', () => {
  const often = writeMp4(inventTrack('h264', 24, [0]), null, 9)
  const once = writeMp4(inventTrack('h264', 24, [0]))
  it('are what would have been written without repeats, under their own digest', async () => {
    const clip = await new PlainClips(stored(often)).find(sha256(often))
    expect(Buffer.from(clip.content).equals(Buffer.from(once))).toBe(true)
    expect(clip.sha256).toBe(sha256(once))
  })
  it('are rewritten once, however often they are asked for', async () => {
    const blobs = stored(often)
    const clips = new PlainClips(blobs)
    const [first, again] = [await clips.find(sha256(often)), await clips.find(sha256(often))]
    expect(again).toBe(first)
    expect(blobs.read).toEqual([sha256(often)])
  })
  it('are rewritten again where memory has had to make room, oldest first', async () => {
    const other = writeMp4(inventTrack('h264', 36, [0]), null, 5)
    const blobs = stored(often, other)
    const room = writeMp4(inventTrack('h264', 36, [0])).byteLength + 10
    const clips = new PlainClips(blobs, room)
    for (const bytes of [often, other, other, often]) await clips.find(sha256(bytes))
    expect(blobs.read).toEqual([often, other, often].map(sha256))
  })
  it('of a file that is gone are an error with its code', async () =>
    await expect(new PlainClips(stored()).find('a'.repeat(64))).rejects.toMatchObject({
      code: 'media/not-found',
    }))
})
