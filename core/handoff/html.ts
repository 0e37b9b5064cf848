/** Text as it stands in markup and in quoted attributes. */
export function escapeHtml(text: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll("'", '&#39;')
}

/** Attributes in order; `true` stands alone, `false` and null are left out. */
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
