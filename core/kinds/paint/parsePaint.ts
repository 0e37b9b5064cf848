import { fail, ok, type Result } from '../../result'
import { createPaint, MAX_STOPS, newGradient, type Gradient, type Paint } from './Paint'

const SHAPES = ['linear', 'radial', 'conic'] as const

/**
 * A paint from words as they are typed: `#1b2350`, or `linear 120deg #1b2350 #b5563c 60% #f2b872`.
 * Colours without a place are spread evenly. Error: a sentence that says what is wrong.
 */
export function parsePaint(text: string): Result<Paint, string> {
  const words = text.trim().split(/\s+/)
  let shape: Gradient['shape'] = 'linear'
  let angleDeg: number | null = null
  const stops: { color: string; at: number | null }[] = []
  for (const word of words) {
    const named = SHAPES.find((each) => each === word.toLowerCase())
    const place = /^(\d{1,3}(?:\.\d+)?)%$/.exec(word)
    const angle = /^(-?\d{1,4}(?:\.\d+)?)deg$/i.exec(word)
    if (named) shape = named
    else if (angle) angleDeg = ((Number(angle[1]) % 360) + 360) % 360
    else if (/^#[0-9a-f]{6}$/i.test(word)) stops.push({ color: word.toLowerCase(), at: null })
    else if (place && stops.length > 0 && Number(place[1]) <= 100)
      stops[stops.length - 1]!.at = Number(place[1]) / 100
    else
      return fail(
        `"${word}" is not understood. Write colours like #1b2350, each with a place like 60% if wanted, and before them linear, radial or conic and an angle like 120deg.`,
      )
  }
  if (stops.length === 0) return fail('A paint has one colour at least, like #1b2350.')
  if (stops.length > MAX_STOPS) return fail(`A gradient has ${MAX_STOPS} colours at most.`)
  const [first] = stops
  const plain: Paint = { ...createPaint(), color: first!.color, gradients: [] }
  if (stops.length === 1) return ok(plain)
  const gradient: Gradient = {
    ...newGradient(first!.color, first!.color),
    shape,
    angleDeg: angleDeg ?? (shape === 'linear' ? 180 : 0),
    stops: spread(stops),
  }
  return ok({ ...plain, gradients: [gradient] })
}

/** Stops with their places: those left out lie evenly between their neighbours. */
function spread(stops: readonly { color: string; at: number | null }[]): Gradient['stops'] {
  const places = stops.map(({ at }, index) =>
    at !== null ? at : index === 0 ? 0 : index === stops.length - 1 ? 1 : null,
  )
  let before = 0
  return stops.map(({ color }, index) => {
    const own = places[index]
    const from = places.findLastIndex((place, at) => place !== null && at <= index)
    const to = places.findIndex((place, at) => place !== null && at >= index)
    const at = own ?? places[from]! + ((places[to]! - places[from]!) * (index - from)) / (to - from)
    // A place before the one to its left is that one, as in CSS.
    before = Math.max(before, at)
    return { color, at: before }
  })
}
