import { ridge } from './noise'
import type { Scene } from './Scene'

const SHORE = ridge(17)
const SMALL = { width: 480, height: 270 }

/**
 * Lights across a harbour, filmed small and enlarged. Flaw: 1920 pixels wide with detail for far
 * fewer.
 */
export const harbourLights: Scene = {
  file: 'harbour-lights.mp4',
  width: 1920,
  height: 1080,
  fps: 25,
  seconds: 6,
  family: 'h264',
  bitsPerSecond: 1_600_000,
  sound: false,
  paint(painter, t) {
    const canvas = new OffscreenCanvas(SMALL.width, SMALL.height)
    const small = canvas.getContext('2d')!
    const { width, height } = canvas
    const dusk = small.createLinearGradient(0, 0, 0, height * 0.6)
    dusk.addColorStop(0, '#142038')
    dusk.addColorStop(1, '#c98d5b')
    small.fillStyle = dusk
    small.fillRect(0, 0, width, height)
    small.fillStyle = '#0e1626'
    small.beginPath()
    small.moveTo(0, height * 0.62)
    for (let x = 0; x <= width; x += 2)
      small.lineTo(x, height * (0.52 - 0.06 * SHORE(x / width + t * 0.01)))
    small.lineTo(width, height * 0.62)
    small.fill()
    small.fillStyle = '#1a2a40'
    small.fillRect(0, height * 0.6, width, height * 0.4)
    for (let lamp = 0; lamp < 60; lamp++) {
      const x = ((lamp * 0.0173 * 7 + t * 0.012) % 1) * width
      small.fillStyle = lamp % 4 === 0 ? '#ffd9a0' : '#f4b46a'
      small.fillRect(x, height * (0.55 + 0.04 * Math.sin(lamp * 5)), 2, 2)
      for (let ripple = 0; ripple < 5; ripple++) {
        small.globalAlpha = 0.5 - ripple * 0.08
        small.fillRect(
          x + Math.sin(t * 3 + ripple + lamp) * 3,
          height * (0.63 + ripple * 0.06),
          3,
          1.5,
        )
      }
      small.globalAlpha = 1
    }
    painter.imageSmoothingQuality = 'high'
    painter.drawImage(canvas, 0, 0, painter.canvas.width, painter.canvas.height)
  },
}
