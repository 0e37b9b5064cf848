import { z } from 'zod'

/*
 * Building blocks of every schema for data from outside. Every string, list and number has a limit,
 * so that no request can fill memory or overflow a column, and every string can be stored.
 */

/** Larger than any figure that is measured here, and exact as a double. */
const LARGEST = 1e15

/**
 * Whether a text can be stored and sent: no NUL, which PostgreSQL refuses, and no half of a
 * surrogate pair.
 */
export function isStorableText(value: string): boolean {
  return !value.includes('\0') && value.isWellFormed()
}

/** A text of at most `max` UTF-16 units. */
export const text = (max: number) =>
  z.string().max(max).refine(isStorableText, 'This text holds characters that cannot be stored.')

/** The beginning of a text: at most `max` UTF-16 units, and never half of a surrogate pair. */
export function cutText(value: string, max: number): string {
  const cut = value.slice(0, max)
  return /[\uD800-\uDBFF]$/.test(cut) ? cut.slice(0, -1) : cut
}

/** A whole number from 0, for counts, sizes and ticks. */
export const count = (max = LARGEST) => z.int().min(0).max(max)

/** Any finite number that a measurement can give. */
export const figure = () => z.number().min(-LARGEST).max(LARGEST)

/** A number from 0. */
export const amount = () => z.number().min(0).max(LARGEST)

/** A share, 0 to 1. */
export const share = () => z.number().min(0).max(1)

/** The side of a picture in pixels. */
export const pixels = () => z.int().min(0).max(1_000_000)

export const idSchema = z.uuid()
export const sha256Schema = z.string().regex(/^[0-9a-f]{64}$/)
/** ISO 8601, always in UTC. */
export const whenSchema = z.iso.datetime()
/** Longest name of a thing. */
export const MAX_NAME_CHARS = 120
/** The name of a thing. */
export const nameSchema = text(MAX_NAME_CHARS).trim().min(1, 'A name is needed.')
/** The name of a file on the sender's disk. */
export const fileNameSchema = text(255).min(1)

/** How deep JSON may be nested, and how many values it may hold. */
const MAX_DEPTH = 40
const MAX_VALUES = 400_000

/**
 * Why a JSON value from outside is refused before any schema: text that cannot be stored, or
 * nesting and numbers of values beyond those of any document. Null if there is no reason. Works
 * without recursion, so depth cannot exhaust the stack.
 */
export function problemOfJson(value: unknown): string | null {
  const open: { readonly value: unknown; readonly depth: number }[] = [{ value, depth: 0 }]
  let values = 0
  for (let next = open.pop(); next; next = open.pop()) {
    const { value: here, depth } = next
    if (++values > MAX_VALUES) return 'The body holds more values than allowed.'
    if (typeof here === 'string' && !isStorableText(here))
      return 'A text holds characters that cannot be stored.'
    if (typeof here !== 'object' || here === null) continue
    if (depth >= MAX_DEPTH) return 'The body is nested deeper than allowed.'
    for (const [name, inner] of Object.entries(here)) {
      if (!isStorableText(name)) return 'A name holds characters that cannot be stored.'
      open.push({ value: inner, depth: depth + 1 })
    }
  }
  return null
}

/** A moment, in ticks of a container's timescale. */
export const ticks = () => amount()

/** Ticks a second: 32 bits in containers. */
export const timescale = () => count(4_294_967_295).min(1)

/** Frames a second, as a fraction. */
export const fractionSchema = z.object({
  num: z.int().min(1).max(240_000),
  den: z.int().min(1).max(1_000_000),
})

/** `#rrggbb`. */
export const colorSchema = z
  .string()
  .regex(/^#[0-9a-fA-F]{6}$/, 'A colour is written like #1b2a4c.')
