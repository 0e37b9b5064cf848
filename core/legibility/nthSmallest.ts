/**
 * The `n`th smallest (from 0) of the first `count` values, which are reordered. Source: C. A. R.
 * Hoare, "Algorithm 65: Find", Communications of the ACM 4 (7), 1961.
 */
export function nthSmallest(values: Float32Array, count: number, n: number): number {
  let left = 0
  let right = count - 1
  while (left < right) {
    const pivot = values[(left + right) >> 1]!
    let [low, high] = [left, right]
    while (low <= high) {
      while (values[low]! < pivot) low++
      while (values[high]! > pivot) high--
      if (low > high) break
      const held = values[low]!
      values[low] = values[high]!
      values[high] = held
      low++
      high--
    }
    if (n <= high) right = high
    else if (n >= low) left = low
    else break
  }
  return values[n]!
}
