import { ridge } from './noise'
import type { Scene } from './Scene'

const ROCK = ridge(83)
const SNOW = ridge(91)
const CUT_S = 4
const BLACK_S = 7.2

/**
 * Into a tunnel and out on the far side. Flaws: a hard cut at 4.0 s, and black from 7.2 s to the
 * end.
 */
export const tunnelMouth: Scene = {
  file: 'tunnel-mouth.mp4',
  width: 1280,
  height: 720,
  fps: 25,
  seconds: 8,
  family: 'h264',
  bitsPerSecond: 1_800_000,
  sound: false,
  paint(painter, t) {
    const { width, height } = painter.canvas
    if (t >= BLACK_S) {
      painter.fillStyle = '#000000'
      painter.fillRect(0, 0, width, height)
      return
    }
    const snow = t >= CUT_S
    const sky = painter.createLinearGradient(0, 0, 0, height)
    sky.addColorStop(0, snow ? '#cfdbe6' : '#2c3350')
    sky.addColorStop(1, snow ? '#f4f1ea' : '#b98a66')
    painter.fillStyle = sky
    painter.fillRect(0, 0, width, height)
    const line = snow ? SNOW : ROCK
    for (let layer = 0; layer < 3; layer++) {
      painter.fillStyle = snow
        ? ['#aebccb', '#8798ab', '#5f7085'][layer]!
        : ['#4b405a', '#332c43', '#1d192a'][layer]!
      painter.beginPath()
      painter.moveTo(0, height)
      for (let x = 0; x <= width; x += 6)
        painter.lineTo(
          x,
          height *
            (0.5 + layer * 0.14 - 0.13 * line(x / width + layer * 3 + t * (0.03 + 0.05 * layer))),
        )
      painter.lineTo(width, height)
      painter.fill()
    }
  },
}
