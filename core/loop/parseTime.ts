/** A typed time: seconds, or a frame number. */
export type TypedTime = { readonly seconds: number } | { readonly frames: number }

/**
 * Reads what a designer types: `2.5`, `2,5`, `2.5 s`, `75f`, `1:02.5`, or a timecode `00:02:15`
 * (minutes, seconds, frames) or `01:00:02:15` with hours, whose last part counts frames of `fps`.
 * Null for anything else, and for a part that is out of its range.
 */
export function parseTime(text: string, fps = 0): TypedTime | null {
  const plain = text.trim().toLowerCase().replace(',', '.')
  const frames = /^(\d+)\s*f$/.exec(plain)
  if (frames) return { frames: Number(frames[1]) }
  const timecode = /^(?:(\d+):)?(\d+):(\d+):(\d+)$/.exec(plain)
  if (timecode) {
    const [hours, minutes, seconds, last] = [
      timecode[1] ?? '0',
      timecode[2]!,
      timecode[3]!,
      timecode[4]!,
    ].map(Number) as [number, number, number, number]
    if (
      fps <= 0 ||
      seconds > 59 ||
      last >= Math.ceil(fps) ||
      (timecode[1] !== undefined && minutes > 59)
    )
      return null
    return { seconds: hours * 3600 + minutes * 60 + seconds + last / fps }
  }
  const clock = /^(?:(\d+):)?(\d+(?:\.\d*)?|\.\d+)\s*s?$/.exec(plain)
  if (!clock) return null
  return { seconds: Number(clock[1] ?? 0) * 60 + Number(clock[2]) }
}
