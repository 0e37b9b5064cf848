import type { Extra, Point } from './Painter'
import { LINKS } from './Prepared'

/**
 * The places of two elements, and their distance as a share of the longest link; of an area also a
 * third place.
 */
export type Link = readonly [one: number, other: number, length: number, three?: number]

/** Neighbours that are compared for each element: in a crowd the first ones are as good as any. */
const MAX_COMPARED = 24
/** Links are drawn together where they are about as strong. */
const STEPS = 4
/** Of so many at most at a time: painting one path takes longer than in step with its lines. */
const TOGETHER = 256
/** How strong areas are beside links. */
const FILL_SHARE = 0.5

/** Three elements that are linked with each other, each three once, as their longest link. */
export function trianglesOf(links: readonly Link[]): Link[] {
  const from: Link[][] = []
  for (const link of links) (from[link[0]] ??= []).push(link)
  return links.flatMap(([one, two, first]) =>
    (from[two] ?? []).flatMap(([, three, second]): Link[] => {
      const third = from[one]!.find((link) => link[1] === three)
      return third ? [[one, two, Math.max(first, second, third[2]), three]] : []
    }),
  )
}

/**
 * Which elements are linked: the nearest of each, `most` of each at most. Elements are sorted into
 * a grid of cells as wide as a link, and so many of them compared at most that the work grows with
 * their number alone. Coordinates and the distance in CSS pixels.
 */
export function linksOf(points: readonly Point[], distance: number, most: number): Link[] {
  const cells: Record<string, number[]> = {}
  const degrees = points.map(() => 0)
  const links: Link[] = []
  /** The elements of the cell that is so many columns and rows from that of a point. */
  const cellAt = (point: Point, right = 0, down = 0): number[] =>
    (cells[`${Math.floor(point.x / distance) + right} ${Math.floor(point.y / distance) + down}`] ??=
      [])
  points.forEach((point, index) => {
    if (point.opacity) cellAt(point).push(index)
  })
  points.forEach((point, index) => {
    const near: Link[] = []
    for (let place = point.opacity ? 0 : 9; place < 9; place++) {
      const cell = cellAt(point, (place % 3) - 1, Math.floor(place / 3) - 1)
      // Each pair once: cells are in order, so those that come later are at their ends.
      for (let at = cell.length; at-- && cell[at]! > index && near.length < MAX_COMPARED;) {
        const { x, y } = points[cell[at]!]!
        const right = x - point.x
        const down = y - point.y
        const length = Math.sqrt(right * right + down * down)
        if (length < distance) near.push([index, cell[at]!, length / distance])
      }
    }
    near.sort((one, two) => one[2] - two[2])
    for (const link of near)
      if (degrees[index]! < most && degrees[link[1]]! < most) {
        degrees[index]!++
        degrees[link[1]]!++
        links.push(link)
      }
  })
  return links
}

/** Draws links in few strokes, in the palette's first colour. */
export const drawLinks: Extra = (points, context, [look], fade) => {
  const how = look[LINKS]
  if (!how) return
  const [distance, most, width, strength, filled] = how
  const links = linksOf(points, distance, most)
  const draw = (all: readonly Link[], by: 'fill' | 'stroke', share: number): void => {
    const paths: Path2D[] = []
    all.forEach(([one, other, length, three = one], index) => {
      const [from, to, on] = [points[one]!, points[other]!, points[three]!]
      const seen = (1 - length) * Math.min(from.opacity, to.opacity, on.opacity)
      const step = Math.floor(seen * STEPS * 0.999)
      const path = (paths[Math.floor(index / TOGETHER) * STEPS + step] ??= new Path2D())
      path.moveTo(from.x, from.y)
      path.lineTo(to.x, to.y)
      if (on !== from) path.lineTo(on.x, on.y)
    })
    paths.forEach((path, place) => {
      context.fillStyle = context.strokeStyle = fade(
        look[0][0]!,
        (strength * share * ((place % STEPS) + 0.5)) / STEPS,
      )
      context[by](path)
    })
  }
  context.lineWidth = width
  if (filled) draw(trianglesOf(links), 'fill', FILL_SHARE)
  draw(links, 'stroke', 1)
}
