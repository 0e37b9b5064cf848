import type { Brand, BrandColor, ReadBrand, Typeface } from './Brand'
import { parseHex } from '../picture/srgb'
import { colorOf, colorOfComponents, familyOf, nameOf, weightOf, type ColorValue } from './values'

/*
 * Design Tokens files: groups of tokens, each with a value. Source: Design Tokens Format Module and
 * Color Module, Design Tokens Community Group, 2025.10.
 */

/** Groups may be so deep, and a value may lead to another by so many steps. */
const MOST_DEPTH = 20
const MOST_TOKENS = 5000

/** A token with the names of its groups. */
interface Token {
  readonly path: readonly string[]
  readonly type: string | null
  readonly value: unknown
}

/** What locks a colour, in a token's extensions. */
const EXTENSION = 'telon'

type Fields = Readonly<Record<string, unknown>>

/** Colours and typefaces of a parsed Design Tokens file; other tokens are passed over. */
export function readDesignTokens(root: unknown): ReadBrand {
  const tokens: Token[] = []
  const locked = new Set<Token>()
  collect(root, [], null, tokens, locked)
  const byPath = new Map(tokens.map((token) => [token.path.join('.'), token]))
  const colors: BrandColor[] = []
  const typefaces: Typeface[] = []
  const skipped: ReadBrand['skipped'][number][] = []
  for (const token of tokens) {
    const name = nameOf(token.path.join(' '))
    const own = resolved(token, byPath)
    if (!own) {
      if (isTaken(token.type)) skipped.push({ name, why: 'leads to nothing' })
      continue
    }
    if (own.type === 'color') {
      const found = colorValue(own.value)
      if ('color' in found) colors.push({ name, color: found.color, isLocked: locked.has(token) })
      else skipped.push({ name, why: found.why })
    } else if (own.type === 'fontFamily' || own.type === 'typography') {
      const typeface = typefaceOf(name, own, byPath)
      if (typeface) typefaces.push(typeface)
      else skipped.push({ name, why: 'is no typeface' })
    }
  }
  return { colors, typefaces, skipped }
}

const isTaken = (type: string | null): boolean =>
  type === 'color' || type === 'fontFamily' || type === 'typography'

const isFields = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** All tokens of a group, from its first to its last. */
function collect(
  group: unknown,
  path: readonly string[],
  inherited: string | null,
  into: Token[],
  locked: Set<Token>,
): void {
  if (!isFields(group) || path.length > MOST_DEPTH || into.length >= MOST_TOKENS) return
  const type = typeof group['$type'] === 'string' ? group['$type'] : inherited
  if ('$value' in group) {
    const token = { path, type, value: group['$value'] }
    into.push(token)
    const extensions = group['$extensions']
    const own = isFields(extensions) ? extensions[EXTENSION] : null
    if (isFields(own) && own['locked'] === true) locked.add(token)
    return
  }
  for (const [name, inner] of Object.entries(group))
    if (!name.startsWith('$')) collect(inner, [...path, name], type, into, locked)
}

/** A token with the value that it leads to; null where that is not there, or leads in a circle. */
function resolved(token: Token, byPath: ReadonlyMap<string, Token>): Token | null {
  let now = token
  for (let step = 0; step < MOST_DEPTH; step++) {
    const alias = typeof now.value === 'string' ? /^\{([^{}]+)\}$/.exec(now.value.trim()) : null
    if (!alias) return now
    const next = byPath.get(alias[1]!.trim())
    if (!next) return null
    now = { ...next, type: next.type ?? now.type }
  }
  return null
}

function colorValue(value: unknown): ColorValue {
  if (typeof value === 'string') return colorOf(value)
  if (!isFields(value)) return { why: 'is no colour' }
  const { colorSpace, components, alpha = 1, hex } = value
  if (typeof colorSpace === 'string' && Array.isArray(components) && typeof alpha === 'number') {
    // "none" stands for a component that makes no difference.
    const numbers = components.map((each) => (each === 'none' ? 0 : Number(each)))
    const found = colorOfComponents(colorSpace, numbers, alpha)
    if ('color' in found || alpha < 1) return found
  }
  return typeof hex === 'string' ? colorOf(hex) : { why: 'is no colour' }
}

function typefaceOf(
  name: string,
  { type, value }: Token,
  byPath: ReadonlyMap<string, Token>,
): Typeface | null {
  /** A part of a composite value, which may lead to a token. */
  const part = (what: unknown): unknown => resolved({ path: [], type, value: what }, byPath)?.value
  const [written, weight] =
    type === 'typography' && isFields(value)
      ? [part(value['fontFamily']), part(value['fontWeight'])]
      : [value, null]
  const isList = Array.isArray(written) && written.every((each) => typeof each === 'string')
  const family = typeof written === 'string' || isList ? familyOf(written) : null
  return family === null ? null : { name, family, weight: weightOf(weight) }
}

/** A Design Tokens file of a brand, as text. */
export function writeDesignTokens({ colors, typefaces }: Brand): string {
  const color = group(colors, ({ color: hex, isLocked }) => {
    const { r, g, b } = parseHex(hex)
    const components = [r, g, b].map((byte) => Math.round((byte / 255) * 1e5) / 1e5)
    return {
      $value: { colorSpace: 'srgb', components, hex },
      ...(isLocked && { $extensions: { [EXTENSION]: { locked: true } } }),
    }
  })
  const plain = typefaces.filter(({ weight }) => weight === null)
  const weighted = typefaces.filter(({ weight }) => weight !== null)
  const names = (family: string): string[] => family.split(/, ?/)
  const font = group(plain, ({ family }) => ({ $value: names(family) }))
  const type = group(weighted, ({ family, weight }) => ({
    // The format asks for all parts of a typography token; those are what nobody has changed.
    $value: {
      fontFamily: names(family),
      fontSize: { value: 1, unit: 'rem' },
      fontWeight: weight,
      letterSpacing: { value: 0, unit: 'px' },
      lineHeight: 1.2,
    },
  }))
  const file = {
    ...(colors.length > 0 && { color: { $type: 'color', ...color } }),
    ...(plain.length > 0 && { font: { $type: 'fontFamily', ...font } }),
    ...(weighted.length > 0 && { typography: { $type: 'typography', ...type } }),
  }
  return `${JSON.stringify(file, null, 2)}\n`
}

/** Tokens by their names, of which the format forbids some letters. */
function group<T extends { readonly name: string }>(
  all: readonly T[],
  tokenOf: (each: T) => object,
): Record<string, object> {
  const tokens = new Map<string, object>()
  for (const each of all) {
    const plain = each.name.replaceAll(/[{}.]+/g, '-').replace(/^\$+/, '') || 'token'
    let name = plain
    for (let count = 2; tokens.has(name); count++) name = `${plain}-${count}`
    tokens.set(name, tokenOf(each))
  }
  return Object.fromEntries(tokens)
}
