/** Sixteen bits hold so many sums of two bytes. */
const MAX_WORDS = 128
/** The longest part of a row whose words are added up in one go. */
export const MAX_WORD_BYTES = 4 * MAX_WORDS

/** The same bytes four at a time; null where they do not lie on a boundary of four. */
export function wordsOf(data: Uint8Array): Uint32Array | null {
  return data.byteOffset % 4 === 0
    ? new Uint32Array(data.buffer, data.byteOffset, data.byteLength >> 2)
    : null
}

/**
 * The sum of the bytes from `from` up to `to`, at most 32,000 of them. With `words`, what `wordsOf`
 * gave for the same bytes, four are added at once, in two lanes of sixteen bits: twice as fast.
 */
export function sumBytes(
  data: Uint8Array,
  words: Uint32Array | null,
  from: number,
  to: number,
): number {
  let sum = 0
  let at = from
  if (words) {
    for (; at < to && (at & 3) !== 0; at++) sum = (sum + data[at]!) | 0
    const last = Math.min(to >> 2, (at >> 2) + MAX_WORDS)
    let lanes = 0
    for (let word = at >> 2; word < last; word++) {
      const four = words[word]!
      lanes = (lanes + (four & 0xff00ff) + ((four >>> 8) & 0xff00ff)) | 0
    }
    sum = (sum + (lanes & 0xffff) + (lanes >>> 16)) | 0
    at = Math.max(at, last << 2)
  }
  for (; at < to; at++) sum = (sum + data[at]!) | 0
  return sum
}

/**
 * The sum of the bytes of words `left` up to `right` of the rows `top` up to `bottom`, each
 * `across` words long: four bytes at once, as `sumBytes` does. Parts of rows are at most
 * `MOST_WORD_BYTES` long.
 */
export function sumWords(
  words: Uint32Array,
  across: number,
  left: number,
  right: number,
  top: number,
  bottom: number,
): number {
  let sum = 0
  for (let y = top; y < bottom; y++) {
    let lanes = 0
    for (let word = y * across + left; word < y * across + right; word++) {
      const four = words[word]!
      lanes = (lanes + (four & 0xff00ff) + ((four >>> 8) & 0xff00ff)) | 0
    }
    sum += (lanes & 0xffff) + (lanes >>> 16)
  }
  return sum
}
