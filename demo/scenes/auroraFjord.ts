import { ridge, seeded } from './noise'
import type { Scene } from './Scene'

const SHORE = ridge(7)
const STARS = (() => {
  const random = seeded(99)
  return Array.from({ length: 140 }, () => ({
    x: random(),
    y: random() * 0.55,
    size: 0.6 + random() * 1.4,
  }))
})()
const SECONDS = 12

/**
 * An aurora over a fjord line: calm and clean; its motion is periodic, so that it loops by itself.
 */
export const auroraFjord: Scene = {
  file: 'aurora-fjord.webm',
  width: 1280,
  height: 720,
  fps: 25,
  seconds: SECONDS,
  family: 'vp9',
  bitsPerSecond: 1_300_000,
  sound: false,
  paint(painter, t) {
    const { width, height } = painter.canvas
    const turn = (t / SECONDS) * Math.PI * 2
    const sky = painter.createLinearGradient(0, 0, 0, height)
    sky.addColorStop(0, '#050c1f')
    sky.addColorStop(0.62, '#0d2a3d')
    sky.addColorStop(1, '#0a1826')
    painter.fillStyle = sky
    painter.fillRect(0, 0, width, height)
    painter.fillStyle = '#cfe6ee'
    for (const { x, y, size } of STARS) painter.fillRect(x * width, y * height, size, size)
    painter.globalCompositeOperation = 'lighter'
    for (let band = 0; band < 3; band++) {
      for (let x = 0; x < width; x += 6) {
        const u = x / width
        const sway = Math.sin(u * 5 + band * 2 + Math.sin(turn + band) * 1.1) * 0.09
        const top = height * (0.12 + band * 0.07 + sway)
        const glow =
          0.05 + 0.09 * (0.5 + 0.5 * Math.sin(u * 11 + turn * (band === 1 ? -1 : 1) + band))
        const curtain = painter.createLinearGradient(0, top, 0, top + height * 0.42)
        curtain.addColorStop(0, `rgb(120 255 190 / 0)`)
        curtain.addColorStop(0.35, `rgb(${90 + band * 40} 235 ${170 + band * 25} / ${glow})`)
        curtain.addColorStop(1, `rgb(90 120 220 / 0)`)
        painter.fillStyle = curtain
        painter.fillRect(x, top, 6, height * 0.42)
      }
    }
    painter.globalCompositeOperation = 'source-over'
    painter.fillStyle = '#040a12'
    painter.beginPath()
    painter.moveTo(0, height)
    for (let x = 0; x <= width; x += 6) painter.lineTo(x, height * (0.74 - 0.08 * SHORE(x / width)))
    painter.lineTo(width, height)
    painter.fill()
    painter.fillStyle = 'rgb(40 110 120 / 0.25)'
    for (let line = 0; line < 9; line++) {
      const y = height * (0.84 + line * 0.017)
      painter.fillRect(
        width * (0.1 + 0.05 * Math.sin(turn + line)),
        y,
        width * (0.75 - line * 0.05),
        2,
      )
    }
  },
}
