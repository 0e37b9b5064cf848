import { deltaE, type Oklab } from './convertSrgbToOklab'

/** A colour and its share of the picture, 0 to 1. */
export interface PaletteEntry {
  readonly colour: Oklab
  readonly share: number
}

const ROUNDS = 8
/** Colours nearer than this (ΔE) are shown as one. */
const NEAR = 6

/**
 * Up to `count` dominant colours, the most common first: k-means in OKLab from seeds far apart;
 * similar colours are merged. The same colours give the same palette. Source: Lloyd (1982),
 * doi:10.1109/TIT.1982.1056489; seeds by Gonzalez (1985).
 */
export function dominantColours(colours: readonly Oklab[], count: number): PaletteEntry[] {
  if (colours.length === 0) return []
  let centres = farSeeds(colours, count)
  let members: Oklab[][] = []
  for (let round = 0; round < ROUNDS; round++) {
    members = centres.map(() => [])
    for (const colour of colours) members[nearest(centres, colour)]!.push(colour)
    centres = centres.map((centre, index) => mean(members[index]!) ?? centre)
  }
  const found: { colour: Oklab; size: number }[] = []
  centres
    .map((colour, index) => ({ colour, size: members[index]!.length }))
    .sort((a, b) => b.size - a.size)
    .forEach((entry) => {
      const twin = found.find((other) => deltaE(other.colour, entry.colour) < NEAR)
      if (twin) twin.size += entry.size
      else if (entry.size > 0) found.push(entry)
    })
  return found.map(({ colour, size }) => ({ colour, share: size / colours.length }))
}

/** The first seed is nearest to the mean; each next one is farthest from all before. */
function farSeeds(colours: readonly Oklab[], count: number): Oklab[] {
  const middle = mean(colours)!
  const seeds = [
    colours.reduce((best, colour) =>
      deltaE(colour, middle) < deltaE(best, middle) ? colour : best,
    ),
  ]
  const distance = colours.map((colour) => deltaE(colour, seeds[0]!))
  while (seeds.length < count) {
    const far = distance.reduce((best, value, index) => (value > distance[best]! ? index : best), 0)
    if (distance[far]! < NEAR) break
    seeds.push(colours[far]!)
    colours.forEach(
      (colour, index) =>
        (distance[index] = Math.min(distance[index]!, deltaE(colour, colours[far]!))),
    )
  }
  return seeds
}

function nearest(centres: readonly Oklab[], colour: Oklab): number {
  let best = 0
  for (let index = 1; index < centres.length; index++)
    if (deltaE(centres[index]!, colour) < deltaE(centres[best]!, colour)) best = index
  return best
}

function mean(colours: readonly Oklab[]): Oklab | null {
  if (colours.length === 0) return null
  const sum = colours.reduce(
    (total, { lightness, a, b }) => ({
      lightness: total.lightness + lightness,
      a: total.a + a,
      b: total.b + b,
    }),
    { lightness: 0, a: 0, b: 0 },
  )
  return {
    lightness: sum.lightness / colours.length,
    a: sum.a / colours.length,
    b: sum.b / colours.length,
  }
}
