import { ridge } from './noise'
import type { Scene } from './Scene'

const HILL = ridge(31)

/** A night train on a viaduct. Flaw: too small to stretch over a wide screen. */
export const viaduct: Scene = {
  file: 'viaduct-crossing.mp4',
  width: 640,
  height: 360,
  fps: 25,
  seconds: 9,
  family: 'h264',
  bitsPerSecond: 500_000,
  sound: false,
  paint(painter, t) {
    const { width, height } = painter.canvas
    const sky = painter.createLinearGradient(0, 0, 0, height)
    sky.addColorStop(0, '#22304f')
    sky.addColorStop(1, '#a98f8c')
    painter.fillStyle = sky
    painter.fillRect(0, 0, width, height)
    painter.fillStyle = '#3c4257'
    painter.beginPath()
    painter.moveTo(0, height)
    for (let x = 0; x <= width; x += 4)
      painter.lineTo(x, height * (0.62 - 0.14 * HILL(x / width + t * 0.004)))
    painter.lineTo(width, height)
    painter.fill()
    painter.fillStyle = '#23222e'
    painter.fillRect(0, height * 0.55, width, height * 0.045)
    for (let arch = 0; arch < 8; arch++) {
      const x = (arch / 7.5) * width
      painter.fillRect(x - width * 0.012, height * 0.58, width * 0.024, height * 0.42)
      painter.beginPath()
      painter.arc(x + width / 15, height * 0.73, width / 15, Math.PI, 0)
      painter.lineWidth = height * 0.03
      painter.strokeStyle = '#23222e'
      painter.stroke()
    }
    for (let car = 0; car < 6; car++) {
      const x = (t * 0.17 - 0.35 - car * 0.155) * width
      painter.fillStyle = '#5b1322'
      painter.fillRect(x, height * 0.475, width * 0.148, height * 0.075)
      painter.fillStyle = '#ffd98e'
      for (let pane = 0; pane < 6; pane++)
        painter.fillRect(
          x + width * (0.01 + pane * 0.023),
          height * 0.49,
          width * 0.015,
          height * 0.026,
        )
    }
  },
}
