import { familyCss, type Brand, type ReadBrand } from './Brand'
import { colorOf, familyOf, nameOf, weightOf } from './values'

/** Each begins at one place only, and names end: no text takes long to look through. */
const PROPERTY = /(?<![\w-])--([\w-]{1,200})\s*:([^;{}]*)/g

/** A value may lead to another by so many steps. */
const MOST_STEPS = 20

/** Names of custom properties that hold lists of typefaces, and of those that hold weights. */
const FAMILIES = /font|family|typeface/i
const WEIGHTS = /weight/i
const WEIGHT_ENDING = /[-_]?(font[-_])?weight$/i

/**
 * Colours and typefaces of custom properties (`--name: value;`), wherever they stand in a style
 * sheet; the first of a name counts. A weight belongs to the typeface whose name it has. What else
 * a style sheet says is passed over.
 */
export function readCustomProperties(css: string): ReadBrand {
  const values = new Map<string, string>()
  for (const [, name, value] of withoutComments(css).matchAll(PROPERTY))
    if (!values.has(name!)) values.set(name!, value!.replace(/!important\s*$/i, '').trim())
  const brand: { -readonly [K in keyof ReadBrand]: ReadBrand[K][number][] } = {
    colors: [],
    typefaces: [],
    skipped: [],
  }
  const weights = new Map<string, number>()
  for (const [name, written] of values) {
    const value = resolved(written, values)
    const known = nameOf(name)
    if (value === null) brand.skipped.push({ name: `--${name}`, why: 'leads to nothing' })
    else if (WEIGHTS.test(name)) {
      const weight = weightOf(value)
      if (weight !== null) weights.set(name.replace(WEIGHT_ENDING, ''), weight)
    } else if (FAMILIES.test(name)) {
      const family = isList(value) ? familyOf(value) : null
      if (family) brand.typefaces.push({ name: known, family, weight: null })
    } else {
      const found = colorOf(value)
      if ('color' in found) brand.colors.push({ name: known, color: found.color, isLocked: false })
      // Sizes, shadows and times are no colours, and nobody expects them to be.
      else if (LOOKS_LIKE_COLOR.test(value))
        brand.skipped.push({ name: `--${name}`, why: found.why })
    }
  }
  const typefaces = brand.typefaces.map((each) => ({
    ...each,
    weight: weights.get(each.name) ?? weights.get(each.name.replace(/[-_]?family$/i, '')) ?? null,
  }))
  return { ...brand, typefaces }
}

const LOOKS_LIKE_COLOR = /^(#|(rgb|hsl|hwb|lab|lch|oklab|oklch|color)a?\()/i

/** Sizes and shorthand with sizes are no lists of names. */
const isList = (value: string): boolean => !/^[\d.]|\d(px|rem|em|%)|[()/]/.test(value)

const withoutComments = (css: string): string => css.replace(/\/\*[\s\S]*?(\*\/|$)/g, ' ')

/** What a value leads to in the end; null where that is not there, or in a circle. */
function resolved(value: string, values: ReadonlyMap<string, string>): string | null {
  let now = value
  for (let step = 0; step < MOST_STEPS; step++) {
    const found = /^var\(\s*--([\w-]+)\s*(?:,([^]*))?\)$/.exec(now)
    if (!found) return now.includes('var(') ? null : now
    const next = values.get(found[1]!) ?? found[2]?.trim()
    if (next === undefined) return null
    now = next
  }
  return null
}

/** Custom properties of a brand, as a style sheet. */
export function writeCustomProperties({ colors, typefaces }: Brand): string {
  const taken = new Set<string>()
  const lines = [
    ...colors.map(({ name, color }) => [identifier(name, 'color', taken), color] as const),
    ...typefaces.flatMap(({ name, family, weight }) => {
      const own = identifier(FAMILIES.test(name) ? name : `font-${name}`, 'font', taken)
      const list = familyCss(family)
      return weight === null
        ? [[own, list] as const]
        : [[own, list] as const, [`${own}-weight`, String(weight)] as const]
    }),
  ]
  return `:root {\n${lines.map(([name, value]) => `  --${name}: ${value};\n`).join('')}}\n`
}

/** A name as an identifier that nothing else has. */
function identifier(name: string, otherwise: string, taken: Set<string>): string {
  const plain =
    name
      .normalize('NFKD')
      .replace(/\p{M}/gu, '')
      .replaceAll(/[^\w-]+/g, '-')
      .replace(/^-+|-+$/g, '') || otherwise
  for (let count = 1; ; count++) {
    const own = count === 1 ? plain : `${plain}-${count}`
    if (taken.has(own)) continue
    taken.add(own)
    return own
  }
}
