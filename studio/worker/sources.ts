import type { ByteSource } from '../../core/bytes/ByteSource'
import { WorkError } from './WorkError'

/** Where a worker finds a clip: an address that answers ranges, or a file of this machine. */
export type ClipPlace = { readonly url: string; readonly bytes: number } | { readonly file: Blob }

/** Where a worker finds contents, by their SHA-256. */
export type Places = Readonly<Record<string, ClipPlace>>

/** Where a drawing lies that was cleaned for delivery. */
export const cleanedPlace = (sha256: string): string => `cleaned ${sha256}`

/** The place of a content. Errors: `work/unreadable`. */
export function placeIn(places: Places, sha256: string): ClipPlace {
  const place = places[sha256]
  if (!place) throw new WorkError('work/unreadable')
  return place
}

/** A source over HTTP ranges. Errors: `work/unreadable`. */
export function httpSource(url: string, size: number): ByteSource {
  return {
    size,
    async read(offset, length) {
      const end = Math.min(size, offset + length)
      if (end <= offset) return new Uint8Array(0)
      const answer = await fetch(url, { headers: { Range: `bytes=${offset}-${end - 1}` } }).catch(
        (cause: unknown) => {
          throw new WorkError('work/unreadable', undefined, cause)
        },
      )
      if (answer.status !== 206 && !(answer.status === 200 && offset === 0 && end === size))
        throw new WorkError('work/unreadable')
      return new Uint8Array(await answer.arrayBuffer())
    },
  }
}

/** A source over a file that was chosen or dropped. */
export function fileSource(file: Blob): ByteSource {
  return {
    size: file.size,
    read: async (offset, length) =>
      new Uint8Array(await file.slice(offset, offset + length).arrayBuffer()),
  }
}

/** Opens the place of a clip. */
export function openPlace(place: ClipPlace): ByteSource {
  return 'url' in place ? httpSource(place.url, place.bytes) : fileSource(place.file)
}

/** A place's whole file as a blob of a type. Errors: `work/unreadable`. */
export async function blobOf(place: ClipPlace, type: string): Promise<Blob> {
  if ('file' in place) return new Blob([place.file], { type })
  return new Blob([new Uint8Array(await openPlace(place).read(0, place.bytes))], { type })
}
