import type { Point } from '../../core/fit/cover'
import { SCREENS, type ScreenName } from '../../core/fit/screens'
import { layersFromImage, scrimName } from '../../core/handoff/layers/scrim'
import { toneFromFilter } from '../../core/handoff/toneCss'
import type { Tone } from '../../core/tone/Tone'
import { BLEND_MODES } from '../../core/picture/blend'
import type { Prepared } from '../../core/particles/Prepared'
import type { ScreenLayout } from '../../core/legibility/TextPlace'
import { NO_SCRIM, type Scrim } from '../../core/scrim/Scrim'
import { textPlaces } from '../layout/textPlaces'

/** What a delivered page shows on a screen. */
export interface ShownPage {
  readonly layout: ScreenLayout
  readonly scrim: Scrim
  readonly focal: Point
  /** What a filter does to its colours; null for nothing. */
  readonly tone: Tone | null
  /** The address of the clip or picture behind the copy; null where it is another base. */
  readonly media: string | null
  /** What is drawn live in front of it; null for nothing. */
  readonly particles: Prepared | null
}

const WAIT_MS = 8000

/** Opens a page in a frame as large as a screen and reads what it shows. */
export async function shownPage(address: string, screen: ScreenName): Promise<ShownPage> {
  const frame = document.createElement('iframe')
  const { width, height } = SCREENS[screen]
  frame.style.cssText = `position:absolute;left:0;top:0;border:0;width:${width}px;height:${height}px`
  const loaded = new Promise((done) => frame.addEventListener('load', done, { once: true }))
  frame.src = address
  document.body.append(frame)
  try {
    await loaded
    const page = frame.contentDocument!
    const region = page.querySelector<HTMLElement>('.tln-region')
    if (!region) throw new Error('There is no backdrop of Telon on this page.')
    await page.fonts.ready
    const media = await mediaOf(page)
    const { width: across, height: down } = region.getBoundingClientRect()
    return {
      layout: { region: { width: across, height: down }, texts: textPlaces(page, region) },
      // Pictures of the page itself have it in them.
      scrim: media ? scrimOf(page, region) : NO_SCRIM,
      focal: focalOf(page, region),
      tone: media ? toneOf(page) : null,
      media,
      particles: particlesOf(page),
    }
  } finally {
    frame.remove()
  }
}

/**
 * The file that covers the region: slides have several, gradients none, and what an image's style
 * places or moves covers it otherwise.
 */
async function mediaOf(page: Document): Promise<string | null> {
  if (page.querySelector('.tln-slides, .tln-moving')) return null
  const video = page.querySelector<HTMLVideoElement>('.tln-video')
  const poster = page.querySelector<HTMLImageElement>('.tln-poster')
  const box = page.querySelector('.tln-image')
  if ((!video && !poster) || (box && !covers(page, box, poster))) return null
  const until = performance.now() + WAIT_MS
  while (performance.now() < until) {
    const plays = video && page.defaultView!.getComputedStyle(video).visibility !== 'hidden'
    if (plays && video.readyState >= 1 && video.currentSrc) return video.currentSrc
    if (!plays && poster?.complete && poster.currentSrc) return poster.currentSrc
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  // A clip that does not start leaves its poster.
  return poster?.currentSrc ?? null
}

function particlesOf(page: Document): Prepared | null {
  const data = page.querySelector<HTMLElement>('.tln-particles')?.dataset['tlnParticles']
  return data === undefined ? null : (JSON.parse(data) as Prepared)
}

/** Whether an image covers its region wholly, and scrolls with it. */
function covers(page: Document, box: Element, poster: Element | null): boolean {
  const styleOf = (element: Element) => page.defaultView!.getComputedStyle(element)
  const { position, opacity } = styleOf(box)
  const fit = poster && styleOf(poster).objectFit
  return position !== 'fixed' && Number(opacity) === 1 && fit === 'cover'
}

/** The scrim by the values that the style gives its elements. */
function scrimOf(page: Document, region: HTMLElement): Scrim {
  const styleOf = page.defaultView!.getComputedStyle
  const layers = [...region.querySelectorAll('.tln-scrim')].flatMap((element, index) => {
    const name = `--tln-${scrimName(index)}`
    const text = styleOf(region).getPropertyValue(name)
    const blend = BLEND_MODES.find((mode) => mode === styleOf(element).mixBlendMode)
    const found = blend ? layersFromImage(text, blend) : []
    // A site may have put anything there.
    const images = text.match(/(gradient|url|image|image-set)\(/g) ?? []
    if (!blend || images.length !== found.length)
      throw new Error(
        `The scrim of this page (${name}) is not one that Telon has written, and cannot be measured.`,
      )
    return found
  })
  return { layers }
}

/** The filter of what is shown. */
function toneOf(page: Document): Tone | null {
  const shown = page.querySelector('.tln-image') ?? page.querySelector('.tln-video, .tln-poster')
  const { filter } = page.defaultView!.getComputedStyle(shown!)
  const tone = toneFromFilter(filter)
  if (tone === undefined)
    throw new Error(
      `The filter of this page (${filter}) is not one that Telon has written, and cannot be measured.`,
    )
  return tone
}

function focalOf(page: Document, region: HTMLElement): Point {
  const text = page.defaultView!.getComputedStyle(region).getPropertyValue('--tln-focal-point')
  const [x = 50, y = 50] = (text.match(/[\d.]+(?=%)/g) ?? []).map(Number)
  return { x: x / 100, y: y / 100 }
}
