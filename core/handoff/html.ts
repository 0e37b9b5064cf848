/** Escapes text for markup and quoted attributes. */
export function escapeHtml(text: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll("'", '&#39;')
}

/**
 * Attributes in order; `true` gives an attribute without a value, `false` and null are left out.
 */
export function attributes(
  pairs: Readonly<Record<string, string | number | boolean | null>>,
): string {
  return Object.entries(pairs)
    .filter(([, value]) => value !== false && value !== null)
    .map(([name, value]) =>
      value === true ? ` ${name}` : ` ${name}="${escapeHtml(String(value))}"`,
    )
    .join('')
}
