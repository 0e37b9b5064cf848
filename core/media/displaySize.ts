/** Width over height of one pixel. */
export interface PixelAspect {
  readonly horizontal: number
  readonly vertical: number
}

/**
 * The displayed size in square pixels. A pixel aspect widens (never shrinks) the picture, and a
 * quarter turn swaps the sides. A zero aspect, or one beyond 10 : 1, is treated as an error of the
 * writer and ignored.
 */
export function displaySize(
  width: number,
  height: number,
  aspect: PixelAspect,
  rotationDeg: number,
): { displayWidth: number; displayHeight: number } {
  const ratio =
    aspect.horizontal > 0 && aspect.vertical > 0 ? aspect.horizontal / aspect.vertical : 1
  const sane = ratio <= 10 && ratio >= 0.1 ? ratio : 1
  const wide = sane >= 1 ? Math.round(width * sane) : width
  const high = sane >= 1 ? height : Math.round(height / sane)
  return rotationDeg % 180 === 0
    ? { displayWidth: wide, displayHeight: high }
    : { displayWidth: high, displayHeight: wide }
}

/**
 * A pixel aspect in lowest terms; what `displaySize` ignores is 1 : 1. Writers like 65536 : 65536.
 */
export function reduceAspect({ horizontal, vertical }: PixelAspect): PixelAspect {
  const whole =
    Number.isInteger(horizontal) && Number.isInteger(vertical) && horizontal > 0 && vertical > 0
  if (!whole || horizontal / vertical > 10 || vertical / horizontal > 10)
    return { horizontal: 1, vertical: 1 }
  let [a, b] = [horizontal, vertical]
  while (b !== 0) [a, b] = [b, a % b]
  return { horizontal: horizontal / a, vertical: vertical / a }
}
