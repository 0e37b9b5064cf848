import type { EncodedSound } from '../core/media/EncodedTrack'
import { writeMp4 } from '../core/media/isobmff/writeMp4'
import { writeWebm } from '../core/media/matroska/writeWebm'
import { convertRgbaToI420 } from '../core/picture/convertRgbaToI420'
import { LIMITED_BT709 } from '../studio/worker/compose/composeFrame'
import { encodeFrames } from '../studio/worker/encode/encodeFrames'
import { PICTURES } from './images'
import { archiveReel } from './scenes/archiveReel'
import { auroraFjord } from './scenes/auroraFjord'
import { duskWindow } from './scenes/duskWindow'
import { harbourLights } from './scenes/harbourLights'
import { seeded } from './scenes/noise'
import { rainPlatform } from './scenes/rainPlatform'
import type { Scene } from './scenes/Scene'
import { tunnelMouth } from './scenes/tunnelMouth'
import { viaduct } from './scenes/viaduct'

/*
 * The page that draws and encodes Vesperline's clips, opened by `npm run demo` and by tests that
 * need a real file.
 */

const SCENES: readonly Scene[] = [
  duskWindow,
  auroraFjord,
  rainPlatform,
  viaduct,
  archiveReel,
  tunnelMouth,
  harbourLights,
]

declare global {
  interface Window {
    telonScenes(): string[]
    /** Draws a scene, or its first `seconds`, and posts the file to `resultUrl`. */
    telonDraw(file: string, resultUrl: string, seconds?: number): Promise<void>
  }
}

window.telonScenes = () => SCENES.map((scene) => scene.file)

window.telonDraw = async (file, resultUrl, seconds) => {
  const picture = PICTURES[file]
  if (picture) {
    await fetch(resultUrl, { method: 'POST', body: await picture() })
    return
  }
  const scene = SCENES.find((each) => each.file === file)
  if (!scene) throw new Error(`there is no scene ${file}`)
  const length = seconds ?? scene.seconds
  const order = { ...scene, frameRate: { num: scene.fps, den: 1 } }
  const encoded = await encodeFrames(
    order,
    draw(scene, Math.round(length * scene.fps)),
    () => undefined,
    new AbortController().signal,
  )
  const track = file.endsWith('.webm')
    ? writeWebm(encoded)
    : writeMp4(encoded, scene.sound ? rumble(length) : null)
  if (file.endsWith('.mov')) track.set(new TextEncoder().encode('qt  '), 8)
  await fetch(resultUrl, { method: 'POST', body: track })
}

async function* draw(scene: Scene, count: number): AsyncGenerator<VideoFrame> {
  const canvas = new OffscreenCanvas(scene.width, scene.height)
  const painter = canvas.getContext('2d', { willReadFrequently: true })!
  for (let k = 0; k < count; k++) {
    scene.paint(painter, k / scene.fps)
    const { data } = painter.getImageData(0, 0, scene.width, scene.height)
    yield new VideoFrame(convertRgbaToI420(data, scene.width, scene.height).data, {
      format: 'I420',
      codedWidth: scene.width,
      codedHeight: scene.height,
      timestamp: Math.round((k * 1e6) / scene.fps),
      colorSpace: LIMITED_BT709,
    })
  }
}

/** Wheels on rails, softly: brown noise, 8 kHz mono. */
function rumble(seconds: number): EncodedSound {
  const sampleRate = 8000
  const random = seeded(5)
  const samples = new Int16Array(Math.round(seconds * sampleRate))
  samples.reduce((level, _, index) => {
    const next = level * 0.985 + (random() - 0.5) * 500
    samples[index] = Math.round(next)
    return next
  }, 0)
  return { channels: 1, sampleRate, pcm: new Uint8Array(samples.buffer) }
}
