import { ridge } from './noise'
import type { Scene } from './Scene'

const LAYERS = [
  { color: '#54406b', base: 0.6, height: 0.1, speed: 0.012, line: ridge(3) },
  { color: '#3d3158', base: 0.7, height: 0.12, speed: 0.03, line: ridge(11) },
  { color: '#2a2442', base: 0.8, height: 0.11, speed: 0.07, line: ridge(23) },
  { color: '#171530', base: 0.92, height: 0.09, speed: 0.16, line: ridge(42) },
]

const TITLE_S = 1.8

/**
 * Hills passing a train window at dusk. Flaws: a title card to 1.8 s, a sound track, an end that
 * does not match its start.
 */
export const duskWindow: Scene = {
  file: 'dusk-window.mov',
  width: 1920,
  height: 1080,
  fps: 24,
  seconds: 14,
  family: 'h264',
  bitsPerSecond: 1_700_000,
  sound: true,
  paint(painter, t) {
    const { width, height } = painter.canvas
    const sky = painter.createLinearGradient(0, 0, 0, height * 0.85)
    sky.addColorStop(0, '#161c40')
    sky.addColorStop(0.45, '#5f4378')
    sky.addColorStop(0.78, '#d77f66')
    sky.addColorStop(1, '#f3b877')
    painter.fillStyle = sky
    painter.fillRect(0, 0, width, height)
    painter.fillStyle = '#f6d9a0'
    painter.beginPath()
    painter.arc(
      width * (0.66 - t * 0.004),
      height * (0.4 + t * 0.008),
      height * 0.052,
      0,
      Math.PI * 2,
    )
    painter.fill()
    for (const { color, base, height: tall, speed, line } of LAYERS) {
      painter.fillStyle = color
      painter.beginPath()
      painter.moveTo(0, height)
      for (let x = 0; x <= width; x += 8)
        painter.lineTo(x, height * (base - tall * line(x / width + t * speed)))
      painter.lineTo(width, height)
      painter.fill()
    }
    // Masts go by, near and quick, as they do from a window.
    painter.fillStyle = '#0e0d20'
    for (let mast = 0; mast < 12; mast++) {
      const x = (mast * 0.9 - t * 0.55) * width
      if (x > -40 && x < width + 40) painter.fillRect(x, height * 0.32, 9, height * 0.68)
    }
    if (t < TITLE_S) paintTitle(painter)
  },
}

function paintTitle(painter: Parameters<Scene['paint']>[0]): void {
  const { width, height } = painter.canvas
  painter.fillStyle = '#10122b'
  painter.fillRect(0, 0, width, height)
  painter.fillStyle = '#f2e6cf'
  painter.font = `700 ${height * 0.085}px "DejaVu Sans", sans-serif`
  painter.textAlign = 'center'
  painter.fillText('NIGHT LINE, TAKE 4', width / 2, height * 0.53)
}
