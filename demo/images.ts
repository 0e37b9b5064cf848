import { withExif, writeExif } from '../core/testing/writeExif'
import { writeGif } from '../core/testing/writeGif'
import { seeded } from './scenes/noise'
import { auroraFjord } from './scenes/auroraFjord'
import { duskWindow } from './scenes/duskWindow'
import type { Scene } from './scenes/Scene'
import { STOPS } from './scenes/stops'
import { tunnelMouth } from './scenes/tunnelMouth'

/* Vesperline's images, one in each format, and a GIF such as designers still receive. */

/** How each file is drawn. */
export const PICTURES: Readonly<Record<string, () => Promise<Uint8Array<ArrayBuffer>>>> = {
  'signal-blink.gif': async () => signalGif(),
  // Stored on its side with made-up coordinates, as a hand-held camera does.
  'first-snow.jpg': async () =>
    withExif(await image(tunnelMouth, 5, 1600, 900, 'image/jpeg', 0.85, true), writeExif(6, true)),
  'fjord-night.webp': () => image(auroraFjord, 3, 1920, 1080, 'image/webp', 0.85),
  'window-seat.png': () => image(duskWindow, 6, 960, 540, 'image/png', 1),
  ...STOPS,
  'route-map.svg': async () => new TextEncoder().encode(ROUTE_MAP),
}

async function image(
  scene: Scene,
  seconds: number,
  width: number,
  height: number,
  type: string,
  quality: number,
  onItsSide = false,
): Promise<Uint8Array<ArrayBuffer>> {
  const canvas = new OffscreenCanvas(onItsSide ? height : width, onItsSide ? width : height)
  const painter = canvas.getContext('2d')!
  const drawn = new OffscreenCanvas(width, height)
  scene.paint(drawn.getContext('2d')!, seconds)
  if (onItsSide) {
    painter.translate(0, width)
    painter.rotate(-Math.PI / 2)
  }
  painter.drawImage(drawn, 0, 0)
  return new Uint8Array(await (await canvas.convertToBlob({ type, quality })).arrayBuffer())
}

const LEVELS = [0, 51, 102, 153, 204, 255]
const CUBE = LEVELS.flatMap((r) => LEVELS.flatMap((g) => LEVELS.map((b) => [r, g, b] as const)))

/**
 * A signal before passing hills: 40 whole pictures of dithered colours, as heavy as such files are.
 */
function signalGif(): Uint8Array<ArrayBuffer> {
  const [width, height] = [640, 360]
  const random = seeded(12)
  // Grain that differs from picture to picture, as dithering programs leave it: it is what such
  // files weigh.
  const grain = Float32Array.from({ length: 64 * 1024 }, () => (random() - 0.5) * 26)
  const canvas = new OffscreenCanvas(width, height)
  const painter = canvas.getContext('2d', { willReadFrequently: true })!
  const pictures = Array.from({ length: 40 }, (_, frame) => {
    duskWindow.paint(painter, 3 + frame * 0.08)
    painter.fillStyle = '#101014'
    painter.fillRect(width * 0.18, height * 0.2, 34, 90)
    painter.fillStyle = frame % 24 < 12 ? '#ff4030' : '#401410'
    painter.beginPath()
    painter.arc(width * 0.18 + 17, height * 0.2 + 24, 13, 0, Math.PI * 2)
    painter.fill()
    const { data } = painter.getImageData(0, 0, width, height)
    const indexes = new Uint8Array(width * height)
    for (let at = 0; at < indexes.length; at++) {
      const nudge = grain[(at * 7 + frame * 7919) % grain.length]!
      const level = (channel: number): number =>
        Math.min(5, Math.max(0, Math.round((data[at * 4 + channel]! + nudge) / 51)))
      indexes[at] = level(0) * 36 + level(1) * 6 + level(2)
    }
    return { width, height, indexes, delayCs: 8 }
  })
  return writeGif(width, height, CUBE, pictures, 0)
}

const ROUTE_MAP = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 800 500" width="800" height="500">
  <rect width="800" height="500" fill="#f1ede4"/>
  <path d="M60 420C180 380 220 240 340 250S520 120 740 80" fill="none" stroke="#9c1c35" stroke-width="8" stroke-linecap="round"/>
  <g fill="#26221c"><circle cx="60" cy="420" r="12"/><circle cx="340" cy="250" r="12"/><circle cx="740" cy="80" r="12"/></g>
</svg>
`
