/** A typed time: seconds, or a frame number. */
export type TypedTime = { readonly seconds: number } | { readonly frames: number }

/**
 * Reads what a designer types: `2.5`, `2,5`, `2.5 s`, `75f`, `1:02.5`. Null for anything else.
 */
export function parseTime(text: string): TypedTime | null {
  const plain = text.trim().toLowerCase().replace(',', '.')
  const frames = /^(\d+)\s*f$/.exec(plain)
  if (frames) return { frames: Number(frames[1]) }
  const clock = /^(?:(\d+):)?(\d+(?:\.\d*)?|\.\d+)\s*s?$/.exec(plain)
  if (!clock) return null
  return { seconds: Number(clock[1] ?? 0) * 60 + Number(clock[2]) }
}
