/** Neighbours that are compared for each element: in a crowd the first ones are as good as any. */
const MAX_COMPARED = 24

/** Three elements of which each is linked to both others, each three once, from their pairs. */
export function trianglesOf(pairs: readonly number[]): [number, number, number][] {
  const later = new Map<number, number[]>()
  for (let at = 0; at < pairs.length; at += 2) {
    const [one, other] = [pairs[at]!, pairs[at + 1]!]
    later.set(one, [...(later.get(one) ?? []), other])
  }
  return [...later].flatMap(([one, others]) =>
    others.flatMap((other) =>
      (later.get(other) ?? [])
        .filter((third) => others.includes(third))
        .map((third): [number, number, number] => [one, other, third]),
    ),
  )
}

/**
 * Which elements are linked: pairs of places, one after another, with their distance as a share of
 * the longest link. The nearest of each element, `most` of each at most. Elements are sorted into a
 * grid of cells as wide as a link, and so many of them compared at most that the work grows with
 * their number alone. Coordinates in CSS pixels.
 */
export function linksOf(
  points: readonly { readonly x: number; readonly y: number; readonly opacity: number }[],
  { distance, most }: { readonly distance: number; readonly most: number },
): { readonly pairs: number[]; readonly lengths: number[] } {
  const cells = new Map<string, number[]>()
  const cellOf = (value: number): number => Math.floor(value / distance)
  const key = (column: number, row: number): string => `${column} ${row}`
  points.forEach(({ x, y, opacity }, index) => {
    if (opacity === 0) return
    const name = key(cellOf(x), cellOf(y))
    const cell = cells.get(name)
    if (cell) cell.push(index)
    else cells.set(name, [index])
  })
  const degrees = points.map(() => 0)
  const pairs: number[] = []
  const lengths: number[] = []
  points.forEach(({ x, y, opacity }, index) => {
    if (opacity === 0) return
    const near: { readonly other: number; readonly square: number }[] = []
    for (let place = 0; place < 9 && near.length < MAX_COMPARED; place++) {
      const [column, row] = [(place % 3) - 1, Math.floor(place / 3) - 1]
      const cell = cells.get(key(cellOf(x) + column, cellOf(y) + row)) ?? []
      // Each pair once: cells are in order, so those that come later are at their ends.
      for (let at = cell.length - 1; at >= 0 && near.length < MAX_COMPARED; at--) {
        const other = cell[at]!
        if (other <= index) break
        const [right, down] = [points[other]!.x - x, points[other]!.y - y]
        const square = right * right + down * down
        if (square < distance * distance) near.push({ other, square })
      }
    }
    near.sort((one, two) => one.square - two.square || one.other - two.other)
    for (const { other, square } of near) {
      if (degrees[index]! >= most) break
      if (degrees[other]! >= most) continue
      degrees[index]! += 1
      degrees[other]! += 1
      pairs.push(index, other)
      lengths.push(Math.sqrt(square) / distance)
    }
  })
  return { pairs, lengths }
}
