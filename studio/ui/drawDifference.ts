/**
 * Draws the difference of two pictures per pixel, amplified, on black; both at the canvas's size.
 */
export function drawDifference(
  canvas: HTMLCanvasElement,
  one: ImageBitmap,
  other: ImageBitmap,
  gain: number,
): void {
  const { width, height } = canvas
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.drawImage(one, 0, 0, width, height)
  const pixels = context.getImageData(0, 0, width, height)
  context.drawImage(other, 0, 0, width, height)
  const { data } = context.getImageData(0, 0, width, height)
  for (let at = 0; at < data.length; at++)
    if (at % 4 !== 3) pixels.data[at] = Math.abs(pixels.data[at]! - data[at]!) * gain
  context.putImageData(pixels, 0, 0)
}
