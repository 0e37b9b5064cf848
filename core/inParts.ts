/** A list in parts of at most so many; none of an empty one. */
export function inParts<T>(all: readonly T[], size: number): T[][] {
  return Array.from({ length: Math.ceil(all.length / size) }, (_, part) =>
    all.slice(part * size, (part + 1) * size),
  )
}
