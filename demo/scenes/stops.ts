import { ridge, seeded } from './noise'
import type { Painter } from './Scene'

/* Cabins and stops of Vesperline, drawn as stills: the slides of the demonstration. */

const SIZE = { width: 1920, height: 1080 } as const

/** A vertical gradient over the whole picture. */
function sky(painter: Painter, ...stops: readonly (readonly [number, string])[]): void {
  const { width, height } = painter.canvas
  const gradient = painter.createLinearGradient(0, 0, 0, height)
  for (const [at, colour] of stops) gradient.addColorStop(at, colour)
  painter.fillStyle = gradient
  painter.fillRect(0, 0, width, height)
}

/** Everything below a hilly line. */
function hills(painter: Painter, seed: number, top: number, rise: number, colour: string): void {
  const { width, height } = painter.canvas
  const line = ridge(seed)
  painter.fillStyle = colour
  painter.beginPath()
  painter.moveTo(0, height)
  for (let x = 0; x <= width; x += 4) painter.lineTo(x, height * (top - rise * line(x / width)))
  painter.lineTo(width, height)
  painter.fill()
}

/** A soft light. */
function glow(painter: Painter, x: number, y: number, radius: number, colour: string): void {
  const gradient = painter.createRadialGradient(x, y, 0, x, y, radius)
  gradient.addColorStop(0, colour)
  gradient.addColorStop(1, 'transparent')
  painter.fillStyle = gradient
  painter.fillRect(x - radius, y - radius, 2 * radius, 2 * radius)
}

function box(painter: Painter, colour: string, ...rect: [number, number, number, number]): void {
  painter.fillStyle = colour
  painter.fillRect(...rect)
}

/** The stop at the snow line: a lit hut under a night sky. */
function snowLine(painter: Painter): void {
  sky(painter, [0, '#0c1430'], [0.6, '#33406b'], [1, '#4a4a72'])
  const random = seeded(5)
  for (let star = 0; star < 160; star++)
    box(painter, '#e8ecff', random() * SIZE.width, random() * 560, 2, 2)
  hills(painter, 11, 0.62, 0.16, '#5d6b95')
  hills(painter, 4, 0.76, 0.08, '#8b97ba')
  box(painter, '#1c1b2a', 1240, 700, 300, 150)
  painter.fillStyle = '#b9c3dc'
  painter.beginPath()
  painter.moveTo(1210, 705)
  painter.lineTo(1390, 600)
  painter.lineTo(1570, 705)
  painter.fill()
  for (const x of [1280, 1370, 1460]) {
    glow(painter, x + 26, 780, 150, 'rgb(255 190 100 / 0.45)')
    box(painter, '#ffcf87', x, 750, 52, 62)
  }
}

/** The stop at the lake: a jetty in the evening. */
function lakeside(painter: Painter): void {
  sky(
    painter,
    [0, '#28203f'],
    [0.42, '#8b4a55'],
    [0.56, '#d98a5c'],
    [0.57, '#5b4a66'],
    [1, '#1c1b33'],
  )
  glow(painter, 620, 600, 520, 'rgb(255 205 140 / 0.6)')
  hills(painter, 21, 0.57, 0.06, '#2d2440')
  water(painter)
  box(painter, '#17131f', 960, 760, 960, 26)
  for (let post = 0; post < 9; post++) box(painter, '#17131f', 1010 + post * 110, 700, 14, 190)
}

/** The water of the lake, with the evening in it. */
function water(painter: Painter): void {
  const { width, height } = painter.canvas
  const gradient = painter.createLinearGradient(0, height * 0.6, 0, height)
  gradient.addColorStop(0, '#a3644f')
  gradient.addColorStop(1, '#1a1a30')
  painter.fillStyle = gradient
  painter.fillRect(0, height * 0.6, width, height * 0.4)
  const random = seeded(31)
  for (let ripple = 0; ripple < 220; ripple++)
    box(
      painter,
      `rgb(255 214 160 / ${0.04 + random() * 0.1})`,
      random() * width,
      height * (0.61 + random() * 0.38),
      60 + random() * 160,
      2,
    )
}

/** A berth with its lamp. */
function berth(painter: Painter): void {
  sky(painter, [0, '#3a241d'], [1, '#1e1412'])
  for (let board = 0; board < 16; board++)
    box(painter, board % 2 ? '#4a2e22' : '#442a20', board * 120, 0, 116, 640)
  glow(painter, 520, 330, 640, 'rgb(255 196 120 / 0.62)')
  box(painter, '#ffe1b0', 470, 280, 100, 70)
  box(painter, '#ddd3c4', 260, 690, 1400, 150)
  box(painter, '#f0e8dc', 260, 620, 330, 120)
  box(painter, '#7b2233', 700, 690, 960, 150)
  box(painter, '#2a1a15', 180, 840, 1560, 240)
  box(painter, '#0f1a2e', 1180, 130, 460, 380)
  windowHills(painter)
}

/** Hills behind the window of the berth. */
function windowHills(painter: Painter): void {
  const line = ridge(8)
  painter.fillStyle = '#1d2d48'
  painter.beginPath()
  painter.moveTo(1180, 510)
  for (let x = 1180; x <= 1640; x += 4) painter.lineTo(x, 400 - 50 * line(x / 460))
  painter.lineTo(1640, 510)
  painter.fill()
}

/** The corridor of a sleeping car. */
function corridor(painter: Painter): void {
  sky(painter, [0, '#2a2d38'], [1, '#16171d'])
  const { width, height } = painter.canvas
  for (let bay = 7; bay >= 0; bay--) {
    const scale = 0.16 + 0.84 * (1 - bay / 8)
    const [wide, high] = [width * scale, height * scale]
    const [x, y] = [width * 0.56 - wide / 2, height * 0.5 - high / 2]
    const shade = 26 + (7 - bay) * 9
    box(painter, `rgb(${shade + 26} ${shade + 10} ${shade})`, x, y, wide * 0.34, high)
    box(painter, `rgb(${shade} ${shade + 6} ${shade + 20})`, x + wide * 0.62, y, wide * 0.38, high)
    box(painter, 'rgb(90 120 160 / 0.5)', x + wide * 0.68, y + high * 0.2, wide * 0.12, high * 0.34)
    box(painter, '#5a1d2a', x + wide * 0.34, y + high * 0.72, wide * 0.28, high * 0.28)
  }
  glow(painter, width * 0.56, height * 0.46, 380, 'rgb(255 210 150 / 0.5)')
}

/** The stop on the salt flats at noon: so bright that no white heading is readable over it. */
function saltFlats(painter: Painter): void {
  sky(painter, [0, '#b9d8ee'], [0.5, '#e9f3f8'], [0.52, '#fdfdfb'], [1, '#f3efe6'])
  hills(painter, 15, 0.52, 0.03, '#c9d7df')
  const random = seeded(77)
  painter.strokeStyle = 'rgb(205 196 178 / 0.8)'
  painter.lineWidth = 3
  for (let crack = 0; crack < 60; crack++) {
    const [x, y] = [random() * SIZE.width, 620 + random() * 440]
    painter.beginPath()
    painter.moveTo(x, y)
    painter.lineTo(x + 120 * (random() - 0.5), y + 50 * random())
    painter.lineTo(x + 220 * (random() - 0.5), y + 90 * random())
    painter.stroke()
  }
  box(painter, '#8b5a44', 1330, 470, 230, 110)
}

/** How each still is drawn. */
const STILLS = {
  'stop-snow-line.jpg': snowLine,
  'stop-lakeside.jpg': lakeside,
  'cabin-berth.jpg': berth,
  'cabin-corridor.jpg': corridor,
  'stop-salt-flats.jpg': saltFlats,
} as const

/** The stills as files. */
export const STOPS: Readonly<Record<string, () => Promise<Uint8Array<ArrayBuffer>>>> =
  Object.fromEntries(
    Object.entries(STILLS).map(([name, draw]) => [
      name,
      async () => {
        const canvas = new OffscreenCanvas(SIZE.width, SIZE.height)
        draw(canvas.getContext('2d')!)
        const file = await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.9 })
        return new Uint8Array(await file.arrayBuffer())
      },
    ]),
  )
