import { readFile, stat } from 'node:fs/promises'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { newParticles } from '../core/particles/Particles'
import { MAX_DEFINITION_CHARS, readDefinition } from '../core/particles/readDefinition'
import { styleOf, STYLES } from '../core/particles/styles'
import { UsageError } from './DeliverOptions'

/** The styles, one a line: its name for the command line first, then its group and its title. */
export function styleLines(): string[] {
  const longest = Math.max(...STYLES.map(({ id }) => id.length))
  return STYLES.map(
    ({ id, group, definition }) =>
      `${id.padEnd(longest)}  ${group.padEnd('geometry'.length)}  ${definition.name}`,
  )
}

/** A style as the text of a definition. Throws UsageError where there is none of that name. */
export function styleText(id: string): string {
  const style = styleOf(id)
  if (!style)
    throw new UsageError(`There is no style called ${id}. “telon particles” lists all of them.`)
  return `${JSON.stringify(style.definition, null, 2)}\n`
}

/**
 * Particles of a style, or of a definition in a file. Throws UsageError where it is neither, or
 * where the file cannot be read as a definition: line by line what is wrong.
 */
export async function particlesFrom(
  named: string,
  resolve: (file: string) => string,
): Promise<BackdropDocument['particles']> {
  const style = styleOf(named)
  if (style) return newParticles(style.definition, style.id)
  const file = resolve(named)
  const size = await stat(file).then(
    (found) => (found.isFile() ? found.size : null),
    () => null,
  )
  if (size === null)
    throw new UsageError(
      `--particles: ${named} is no style, and no file. “telon particles” lists the styles.`,
    )
  // UTF-8 takes four bytes a character at most.
  if (size > 4 * MAX_DEFINITION_CHARS)
    throw new UsageError(`--particles: ${named} is too large for a definition.`)
  const read = readDefinition(await readFile(file, 'utf8'))
  if (read.ok) return newParticles(read.value, null)
  const problems = read.error.map(({ line, message }) => `  line ${line}: ${message}`)
  throw new UsageError(`--particles: ${named} is no definition.\n${problems.join('\n')}`)
}
