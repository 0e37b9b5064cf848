import { ByteReader } from '../../bytes/ByteReader'
import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'

/** A box at the top of a file, known by its header alone. */
export interface TopBox {
  readonly type: string
  readonly offset: number
  /** Whole size in bytes, header included; cut to the file's end where the file ends first. */
  readonly size: number
  readonly headerBytes: number
  /** Whether the file ends before the box does. */
  readonly cut: boolean
}

const MAX_TOP_BOXES = 200_000

/** Reads the headers of the top boxes, sixteen bytes each, and skips what is in them. */
export async function walkTopBoxes(source: ByteSource): Promise<TopBox[]> {
  const found: TopBox[] = []
  let offset = 0
  while (offset + 8 <= source.size) {
    if (found.length === MAX_TOP_BOXES)
      throw new ContainerError('media/index-too-large', { offset })
    const reader = new ByteReader(await source.read(offset, 16), offset)
    let size = reader.u32()
    const type = reader.tag()
    if (size === 1) size = reader.u64()
    else if (size === 0) size = source.size - offset
    if (size < reader.position) throw new ContainerError('media/bad-size', { offset, path: type })
    const cut = offset + size > source.size
    found.push({
      type,
      offset,
      size: cut ? source.size - offset : size,
      headerBytes: reader.position,
      cut,
    })
    offset += size
  }
  return found
}
