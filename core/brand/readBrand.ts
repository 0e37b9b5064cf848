import { readCustomProperties } from './customProperties'
import { readDesignTokens } from './designTokens'
import type { ReadBrand } from './Brand'

/** Longer texts are no list of colours. */
export const MAX_BRAND_TEXT = 500_000

/**
 * Colours and typefaces of a pasted text: custom properties of a style sheet, or a Design Tokens
 * file (W3C community group format). Throws RangeError, with a message for users, where it is too
 * long, is broken JSON, or has nothing to take.
 */
export function readBrand(text: string): ReadBrand {
  if (text.length > MAX_BRAND_TEXT)
    throw new RangeError('This text is too long. Paste only the part with colours and typefaces.')
  const found = /^\s*\{/.test(text)
    ? readDesignTokens(parsedTokens(text))
    : readCustomProperties(text)
  if (found.colors.length === 0 && found.typefaces.length === 0) {
    const [first] = found.skipped
    throw new RangeError(
      first
        ? `No colour or typeface could be taken: ${first.name} ${first.why}.`
        : 'No colour or typeface was found. Paste custom properties (--name: value) or a Design Tokens file.',
    )
  }
  return found
}

function parsedTokens(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch (error) {
    const what = error instanceof Error ? error.message : 'check its commas and quotes'
    throw new RangeError(`This Design Tokens file is not valid JSON: ${what}.`, { cause: error })
  }
}
