const MAX_CODES = 4096

/**
 * Unpacks a GIF picture's codes into `count` palette indexes. `blocks` begins at the byte of the
 * least code size. Damage ends the picture early: what was not reached stays 0. Source: Graphics
 * Interchange Format 89a, appendix F.
 */
export function decodeLzw(
  blocks: Uint8Array,
  count: number,
): { indexes: Uint8Array; filled: number } {
  const indexes = new Uint8Array(count)
  const min = blocks[0] ?? 0
  if (min < 1 || min > 11) return { indexes, filled: 0 }
  const clear = 1 << min
  const prefix = new Uint16Array(MAX_CODES)
  const suffix = new Uint8Array(MAX_CODES)
  const lengths = new Uint16Array(MAX_CODES)
  for (let code = 0; code < clear; code++) {
    suffix[code] = code
    lengths[code] = 1
  }
  let [next, width, previous, filled] = [clear + 2, min + 1, -1, 0]
  let [buffer, held, at, left] = [0, 0, 1, 0]
  while (filled < count) {
    while (held < width) {
      if (left === 0) {
        left = blocks[at++] ?? 0
        if (left === 0) return { indexes, filled }
      }
      const byte = blocks[at++]
      if (byte === undefined) return { indexes, filled }
      buffer |= byte << held
      held += 8
      left -= 1
    }
    const code = buffer & ((1 << width) - 1)
    buffer >>>= width
    held -= width
    if (code === clear) {
      ;[next, width, previous] = [clear + 2, min + 1, -1]
      continue
    }
    if (code === clear + 1) return { indexes, filled }
    // The one code that may come before its entry: the previous string and its own first index.
    const known = code < next && (code < clear || code > clear + 1)
    if (!known && (previous < 0 || code !== next)) return { indexes, filled }
    const source = known ? code : previous
    const length = lengths[source]! + (known ? 0 : 1)
    let walk = source
    let end = filled + length
    const first = firstOf(source, prefix, suffix, clear)
    if (!known) put(--end, first)
    while (end > filled) {
      put(--end, suffix[walk]!)
      walk = prefix[walk]!
    }
    filled = Math.min(count, filled + length)
    if (previous >= 0 && next < MAX_CODES) {
      prefix[next] = previous
      suffix[next] = first
      lengths[next] = lengths[previous]! + 1
      next += 1
      if (next === 1 << width && width < 12) width += 1
    }
    previous = code
  }
  return { indexes, filled }

  function put(place: number, index: number): void {
    if (place < count) indexes[place] = index
  }
}

function firstOf(code: number, prefix: Uint16Array, suffix: Uint8Array, clear: number): number {
  let walk = code
  while (walk >= clear) walk = prefix[walk]!
  return suffix[walk]!
}
