import type { Size } from '../fit/cover'

/*
 * Pictures as shapes of particles. They are small and stand in the definition itself, so that a
 * definition is whole wherever it is brought, and no file has to be there for it.
 */

/** Pictures of one definition at most, and the bytes and pixels of each. */
export const MAX_SPRITES = 4
export const MAX_SPRITE_BYTES = 8_000
export const MAX_SPRITE_SIDE = 256
/** Of its address, in characters: four for three bytes, and what is before them. */
export const MAX_SPRITE_CHARS = 40 + Math.ceil(MAX_SPRITE_BYTES / 3) * 4

/** A picture as an address: WebP or PNG, which can be transparent. */
export const SPRITE_ADDRESS = /^data:image\/(?:webp|png);base64,[A-Za-z0-9+/]+={0,2}$/

/** The pixels of a picture by the head of its file; null where that is none of ours. */
export function spriteSize(address: string): Size | null {
  if (!SPRITE_ADDRESS.test(address)) return null
  const base64 = address.slice(address.indexOf(',') + 1)
  // All that is asked for is in the first bytes; whole groups of four can be decoded by themselves.
  const head = Uint8Array.from(atob(base64.slice(0, 48)), (each) => each.charCodeAt(0))
  if (head.length < 30) return null
  const view = new DataView(head.buffer)
  const text = (from: number, to: number): string => String.fromCharCode(...head.slice(from, to))
  if (text(1, 4) === 'PNG' && text(12, 16) === 'IHDR')
    return { width: view.getUint32(16), height: view.getUint32(20) }
  if (text(0, 4) !== 'RIFF' || text(8, 12) !== 'WEBP') return null
  const low = (at: number): number => view.getUint16(at, true)
  switch (text(12, 16)) {
    case 'VP8X':
      return {
        width: 1 + low(24) + (head[26]! << 16),
        height: 1 + low(27) + (head[29]! << 16),
      }
    case 'VP8L': {
      const bits = view.getUint32(21, true)
      return { width: 1 + (bits & 0x3fff), height: 1 + ((bits >>> 14) & 0x3fff) }
    }
    case 'VP8 ':
      return { width: low(26) & 0x3fff, height: low(28) & 0x3fff }
    default:
      return null
  }
}

/** Whether a picture is one that definitions can have. */
export function isSprite(address: string): boolean {
  const size = address.length <= MAX_SPRITE_CHARS ? spriteSize(address) : null
  return (
    size !== null &&
    Math.min(size.width, size.height) > 0 &&
    Math.max(size.width, size.height) <= MAX_SPRITE_SIDE
  )
}
