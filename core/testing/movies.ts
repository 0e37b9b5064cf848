import { ByteReader } from '../bytes/ByteReader'
import { parseBoxes, wrapBox, writeBox, type Box } from '../media/isobmff/boxTree'
import { BOXES } from '../media/isobmff/boxes/registry'
import { writeMp4 } from '../media/isobmff/writeMp4'
import { inventTrack } from './samples'

/* Movies as other programs write them, built from our own by changing boxes. */

export const join = (...parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> => {
  const joined = new Uint8Array(parts.reduce((sum, part) => sum + part.byteLength, 0))
  parts.reduce((at, part) => (joined.set(part, at), at + part.byteLength), 0)
  return joined
}

/** Rebuilds a file with one box changed, found by what `change` looks for. */
export function rebuild(
  bytes: Uint8Array,
  change: (box: Box) => Uint8Array | null,
): Uint8Array<ArrayBuffer> {
  const write = (box: Box): Uint8Array =>
    change(box) ??
    wrapBox(box.type, ...(box.children.length > 0 ? box.children.map(write) : [box.payload]))
  return join(...parseBoxes(bytes, 0).map(write))
}

/** Where the data of a progressive file begin. */
export function firstFrameAt(bytes: Uint8Array): number {
  return parseBoxes(bytes, 0).find((box) => box.type === 'mdat')!.payloadOffset
}

/** A reader over a box's payload. */
export function readerOf(box: Box): ByteReader {
  return new ByteReader(box.payload)
}

/** A file whose tracks have this edit list. */
export function withEdits(bytes: Uint8Array, edts: Uint8Array): Uint8Array {
  return reindex(
    bytes,
    rebuild(bytes, (box) =>
      box.type === 'trak'
        ? wrapBox('trak', ...box.children.map((child) => wrapBox(child.type, child.payload)), edts)
        : null,
    ),
  )
}

/** A file with one more table in its sample tables. */
export function replaceStbl(bytes: Uint8Array, table: Uint8Array): Uint8Array {
  return reindex(
    bytes,
    rebuild(bytes, (box) =>
      box.type === 'stbl'
        ? wrapBox('stbl', ...box.children.map((child) => wrapBox(child.type, child.payload)), table)
        : null,
    ),
  )
}

/** A file whose sample description has another type, and other boxes behind its fields. */
export function withSampleEntry(
  bytes: Uint8Array,
  type: string,
  ...boxes: readonly Uint8Array[]
): Uint8Array {
  const changed = rebuild(bytes, (box) => {
    if (box.type !== 'stsd') return null
    const [entry] = parseBoxes(box.payload.subarray(8), 0)
    const fields = entry!.payload.subarray(0, 78)
    return wrapBox('stsd', box.payload.subarray(0, 8), wrapBox(type, fields, ...boxes))
  })
  return reindex(bytes, changed)
}

/** Moves the chunk offsets by as much as the index has grown. */
export function reindex(before: Uint8Array, after: Uint8Array): Uint8Array {
  const by = after.byteLength - before.byteLength
  return rebuild(after, (box) =>
    box.type === 'stco'
      ? writeBox('stco', BOXES.stco, {
          version: 0,
          flags: 0,
          offsets: BOXES.stco.read(readerOf(box), {}).offsets.map((offset) => offset + by),
        })
      : null,
  )
}

/** The same frames in fragments of ten, as recorders and streams write them. */
export function fragmented(frames: readonly Uint8Array[]): Uint8Array {
  const [ftyp, moov] = parseBoxes(writeMp4(inventTrack('h264', 1)), 0)
  const trex = writeBox('trex', BOXES.trex, {
    version: 0,
    flags: 0,
    trackId: 1,
    descriptionIndex: 1,
    sampleDuration: 1001,
    sampleSize: 0,
    sampleFlags: 0x10000,
  })
  const head = join(
    wrapBox('ftyp', ftyp!.payload),
    wrapBox('moov', moov!.payload, wrapBox('mvex', trex)),
  )
  const parts: Uint8Array[] = []
  for (let first = 0; first < frames.length; first += 10) {
    const some = frames.slice(first, first + 10)
    const build = (dataOffset: number): Uint8Array =>
      wrapBox(
        'moof',
        wrapBox(
          'traf',
          writeBox('tfhd', BOXES.tfhd, {
            version: 0,
            flags: 0x20000,
            trackId: 1,
            baseDataOffset: null,
            descriptionIndex: null,
            sampleDuration: null,
            sampleSize: null,
            sampleFlags: null,
          }),
          writeBox('tfdt', BOXES.tfdt, { version: 1, flags: 0, baseMediaDecodeTime: first * 1001 }),
          writeBox('trun', BOXES.trun, {
            version: 0,
            flags: 0x205,
            sampleCount: some.length,
            dataOffset,
            firstSampleFlags: 0,
            samples: some.map((frame) => ({
              duration: null,
              size: frame.byteLength,
              flags: null,
              compositionOffset: null,
            })),
          }),
        ),
      )
    parts.push(build(build(0).byteLength + 8), wrapBox('mdat', ...some))
  }
  return join(head, ...parts)
}
