/** A number with as many places as CSS needs. */
export const cssNumber = (value: number): string => String(Math.round(value * 1000) / 1000)
