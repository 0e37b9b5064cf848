import { seeded } from './noise'
import type { Scene } from './Scene'

/** Rain on a platform at speed. Flaws: too busy behind copy, and much too heavy for its content. */
export const rainPlatform: Scene = {
  file: 'rain-platform.mp4',
  width: 1280,
  height: 720,
  fps: 30,
  seconds: 6,
  family: 'h264',
  bitsPerSecond: 4_600_000,
  sound: false,
  paint(painter, t) {
    const { width, height } = painter.canvas
    painter.fillStyle = '#1b2129'
    painter.fillRect(0, 0, width, height)
    for (let lamp = 0; lamp < 9; lamp++) {
      const x = ((((lamp * 0.17 - t * 0.62) % 1.5) + 1.5) % 1.5) * width - width * 0.2
      const light = painter.createRadialGradient(
        x,
        height * 0.24,
        4,
        x,
        height * 0.24,
        height * 0.4,
      )
      light.addColorStop(0, 'rgb(255 226 160 / 0.95)')
      light.addColorStop(0.12, 'rgb(255 196 110 / 0.5)')
      light.addColorStop(1, 'rgb(255 180 90 / 0)')
      painter.fillStyle = light
      painter.fillRect(0, 0, width, height)
      painter.fillStyle = '#0b0d11'
      painter.fillRect(x - 4, height * 0.26, 8, height * 0.5)
    }
    painter.fillStyle = '#252b33'
    painter.fillRect(0, height * 0.74, width, height * 0.26)
    painter.fillStyle = '#d9b13f'
    for (let dash = 0; dash < 14; dash++)
      painter.fillRect(
        ((((dash * 0.12 - t * 1.9) % 1.6) + 1.6) % 1.6) * width - width * 0.2,
        height * 0.77,
        width * 0.07,
        7,
      )
    const random = seeded(Math.round(t * 30) + 1)
    painter.lineWidth = 1.6
    for (let drop = 0; drop < 850; drop++) {
      const x = random() * width * 1.2
      const y = random() * height
      const long = 14 + random() * 46
      painter.strokeStyle = `rgb(205 220 235 / ${0.12 + random() * 0.4})`
      painter.beginPath()
      painter.moveTo(x, y)
      painter.lineTo(x - long * 0.55, y + long)
      painter.stroke()
    }
  },
}
