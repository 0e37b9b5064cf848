import { ridge } from './noise'
import type { Scene } from './Scene'

const FOREST = [ridge(51), ridge(64), ridge(77)]
const COLOURS = ['#5d7383', '#3f5667', '#24384a']

/** How much of each side an old reel's shape leaves black. */
const BAR = 0.1

/**
 * A wooded valley from the last carriage. Flaws: an archive's mark burnt into a corner, and black
 * bars at both sides.
 */
export const archiveReel: Scene = {
  file: 'archive-reel.mp4',
  width: 1280,
  height: 720,
  fps: 25,
  seconds: 7,
  family: 'h264',
  bitsPerSecond: 2_400_000,
  sound: false,
  paint(painter, t) {
    const { width, height } = painter.canvas
    const sky = painter.createLinearGradient(0, 0, 0, height)
    sky.addColorStop(0, '#9fb4c0')
    sky.addColorStop(1, '#d9cbb4')
    painter.fillStyle = sky
    painter.fillRect(0, 0, width, height)
    FOREST.forEach((line, layer) => {
      painter.fillStyle = COLOURS[layer]!
      painter.beginPath()
      painter.moveTo(0, height)
      for (let x = 0; x <= width; x += 4) {
        const u = x / width + t * (0.05 + layer * 0.07)
        painter.lineTo(
          x,
          height * (0.45 + layer * 0.15 - 0.08 * line(u)) -
            Math.abs(Math.sin(u * 190 + layer)) * height * 0.035,
        )
      }
      painter.lineTo(width, height)
      painter.fill()
    })
    // Sleepers and shrubs rush by below.
    for (let shrub = 0; shrub < 26; shrub++) {
      const x = ((((shrub * 0.083 - t * 0.45) % 1.3) + 1.3) % 1.3) * width - width * 0.15
      painter.fillStyle = shrub % 3 === 0 ? '#8a9a6a' : shrub % 3 === 1 ? '#16241c' : '#5f6f4a'
      painter.beginPath()
      painter.ellipse(
        x,
        height * (0.92 + 0.04 * Math.sin(shrub * 7)),
        width * 0.035,
        height * (0.06 + 0.02 * Math.sin(shrub * 3)),
        0,
        0,
        Math.PI * 2,
      )
      painter.fill()
    }
    painter.font = `700 ${height * 0.046}px "DejaVu Sans", sans-serif`
    painter.textAlign = 'right'
    painter.fillStyle = '#ffffff'
    painter.strokeStyle = '#10151c'
    painter.lineWidth = 3
    painter.strokeText('ARCHIVE 0417', width * 0.87, height * 0.93)
    painter.fillText('ARCHIVE 0417', width * 0.87, height * 0.93)
    painter.fillStyle = '#000000'
    painter.fillRect(0, 0, width * BAR, height)
    painter.fillRect(width * (1 - BAR), 0, width * BAR, height)
  },
}
