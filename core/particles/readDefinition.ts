import type { z } from 'zod'
import { fail, ok, type Result } from '../result'
import { definitionSchema, type Definition } from './Definition'
import { placesOf, type PlacedProblem } from './jsonPlaces'

/** Longer texts are no definitions: one with everything in it takes a few kilobytes. */
export const MAX_DEFINITION_CHARS = 64_000

/** Reads a definition that somebody wrote, or lists what is wrong with it, line by line. */
export function readDefinition(text: string): Result<Definition, PlacedProblem[]> {
  if (text.length > MAX_DEFINITION_CHARS)
    return fail([
      { line: 1, message: `A definition has at most ${MAX_DEFINITION_CHARS} characters.` },
    ])
  const read = placesOf(text)
  if (!read.ok) return fail([read.error])
  const parsed = definitionSchema.safeParse(read.value.value)
  if (parsed.success) {
    const problems = contradictions(parsed.data).map(({ path, message }) => ({
      line: read.value.lineOf(path),
      message,
    }))
    return problems.length > 0 ? fail(problems) : ok(parsed.data)
  }
  return fail(
    parsed.error.issues.map((issue) => ({
      line: read.value.lineOf(issue.path),
      message: `${issue.path.map(String).join('.') || 'The definition'}: ${wordsOf(issue)}`,
    })),
  )
}

const wordsOf = (issue: z.core.$ZodIssue): string =>
  issue.code === 'unrecognized_keys'
    ? `there is nothing named ${issue.keys.map((key) => `“${key}”`).join(', ')} here.`
    : `${issue.message}.`.replace(/\.\.$/, '.')

/** What the shape of a definition allows, but makes no sense. */
function contradictions({
  size,
  opacity,
  motion,
  where,
}: Definition): { readonly path: readonly (string | number)[]; readonly message: string }[] {
  const ranges = [
    [['size'], size],
    [['opacity'], opacity],
    [['motion', 'speed'], motion.speed],
    [['motion', 'spin'], motion.spin],
    ...(where ? [[['where'], where] as const] : []),
  ] as const
  return ranges.flatMap(([path, { from, to }]) =>
    from > to ? [{ path, message: `${path.join('.')}: “from” is more than “to”.` }] : [],
  )
}
