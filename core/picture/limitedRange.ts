import { planesOf, type I420 } from './I420'

/** Black and white of luma and the middle and reach of chroma. Source: ITU-R BT.709-6, clause 4. */
const LUMA = Uint8Array.from({ length: 256 }, (_, value) => Math.round(16 + (value * 219) / 255))
const CHROMA = Uint8Array.from({ length: 256 }, (_, value) =>
  Math.round(128 + ((value - 128) * 224) / 255),
)

/** A picture of full range as one of limited range, which every player expects. */
export function limitedRange(picture: I420): I420 {
  const limited = { ...picture, data: new Uint8Array(picture.data.byteLength) }
  const [from, to] = [planesOf(picture), planesOf(limited)]
  for (const [index, { data }] of from.entries()) {
    const [table, into] = [index === 0 ? LUMA : CHROMA, to[index]!.data]
    for (let at = 0; at < data.length; at++) into[at] = table[data[at]!]!
  }
  return limited
}
