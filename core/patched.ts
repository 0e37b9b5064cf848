/**
 * A value with some fields of one section replaced; the same value when all of them were equal
 * already.
 */
export function patched<T extends object, S extends keyof T>(
  value: T,
  section: S,
  fields: Partial<T[S]>,
): T {
  const before = value[section] as Record<string, unknown>
  const changed = Object.entries(fields).some(
    ([name, field]) => JSON.stringify(before[name]) !== JSON.stringify(field),
  )
  return changed ? { ...value, [section]: { ...before, ...fields } } : value
}
