import { SCREENS, type ScreenName } from '../../core/fit/screens'
import { isWithin, type Span } from '../../core/kinds/Span'
import type { TextPlace } from '../../core/legibility/TextPlace'
import type { ContrastRow } from '../../core/legibility/worstOf'
import { parseHex } from '../../core/picture/srgb'
import { worstPlace } from '../../core/scrim/frameContrast'
import { NO_SCRIM } from '../../core/scrim/Scrim'
import { textPlaces } from '../layout/textPlaces'

/** What drives a page of `HELD`, put into it before its own script (headless/heldClock.ts). */
declare global {
  interface Window {
    /** Lets so many milliseconds pass for what draws by itself; says whether anything does. */
    telonTurn?(milliseconds: number): boolean
  }
}

/** Pages that are held have their own clock where their address ends so. */
export const HELD = '#held'
/** So often a page is looked at, in seconds, and at so many moments at most. */
const STEP = 0.25
const MOST = 96
const WAIT_MS = 8000
/** Half of it or more: words that come and go are read while they are seen. */
const SEEN = 0.5

/** What a held page shows. */
export interface Held {
  /** How many windows high the region is, at least one. */
  readonly windows: number
  readonly texts: readonly TextPlace[]
  /** The moments to be looked at, in seconds. */
  readonly times: readonly number[]
}

/** What of a region is in a window: where it is there, and how far down in the region it begins. */
export interface HeldPart {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly from: number
}

/**
 * A delivered page in a frame as large as a screen, that stands still at whatever moment is asked
 * for, without its copy: pictures of it show exactly what copy lies on.
 */
export class HeldPage {
  private readonly frame: HTMLIFrameElement
  private turned = 0
  private texts: readonly TextPlace[] = []

  private constructor(frame: HTMLIFrameElement) {
    this.frame = frame
  }

  /** `period` is after how long its live particles repeat; null without any. */
  static async open(
    address: string,
    screen: ScreenName,
    period: number | null,
  ): Promise<{ readonly page: HeldPage; readonly held: Held }> {
    const frame = document.createElement('iframe')
    const { width, height } = SCREENS[screen]
    frame.style.cssText = `position:fixed;left:0;top:0;border:0;width:${width}px;height:${height}px`
    // Slides and words take their turns by the style alone.
    if (period === null) frame.sandbox.add('allow-same-origin')
    const loaded = new Promise((done) => frame.addEventListener('load', done, { once: true }))
    frame.src = address + HELD
    document.body.append(frame)
    const page = new HeldPage(frame)
    try {
      await loaded
      return { page, held: await page.prepare(period) }
    } catch (error) {
      page.close()
      throw error
    }
  }

  /** Takes the page to a moment. */
  async hold(seconds: number): Promise<void> {
    for (const animation of this.animations()) animation.currentTime = seconds * 1000
    const view = this.frame.contentWindow!
    for (const rate = 1 / 60; this.turned + rate / 2 < seconds; this.turned += rate)
      if (!view.telonTurn?.(rate * 1000)) break
    await painted()
  }

  /** Scrolls to one of the region's windows; returns what of the region is in it. */
  async scroll(window: number): Promise<HeldPart> {
    const { region, frame } = this
    const view = frame.contentWindow!
    view.scrollTo({ top: window * view.innerHeight, behavior: 'instant' })
    await painted()
    const { x, y, width, height } = region.getBoundingClientRect()
    const top = Math.max(0, y)
    const bottom = Math.min(view.innerHeight, y + height)
    return { x, y: top, width, height: bottom - top, from: top - y }
  }

  /** Measures the copy at a moment in pictures of the region's parts. */
  async measure(
    parts: readonly { readonly picture: Blob; readonly from: number }[],
    seconds: number,
  ): Promise<ContrastRow> {
    const { width, height } = this.region.getBoundingClientRect()
    const canvas = new OffscreenCanvas(Math.round(width), Math.round(height))
    const context = canvas.getContext('2d')!
    for (const { picture, from } of parts) {
      const bitmap = await createImageBitmap(picture)
      context.drawImage(bitmap, 0, Math.round(from))
      bitmap.close()
    }
    const pixels = {
      data: context.getImageData(0, 0, canvas.width, canvas.height).data,
      width: canvas.width,
      height: canvas.height,
    }
    return {
      seconds,
      places: this.texts.map(({ boxes, color, plate, during }) =>
        during && !isWithin(during, seconds)
          ? null
          : worstPlace(pixels, NO_SCRIM, boxes, parseHex(color), 4, plate),
      ),
    }
  }

  close(): void {
    this.frame.remove()
  }

  private get page(): Document {
    return this.frame.contentDocument!
  }

  private get region(): HTMLElement {
    const region = this.page.querySelector<HTMLElement>('.tln-region')
    if (!region) throw new Error('There is no backdrop of Telon on this page.')
    return region
  }

  private async prepare(period: number | null): Promise<Held> {
    const { page, region } = this
    await page.fonts.ready
    await this.ready(region, period !== null)
    for (const [each, name] of [
      ['.tln-driven', 'tln-driven'],
      ['.tln-told', 'tln-told'],
    ] as const)
      page.querySelectorAll(each).forEach((element) => element.classList.remove(name))
    for (const control of page.querySelectorAll<HTMLElement>('.tln-pause, .tln-controls'))
      control.hidden = false
    for (const animation of this.animations()) animation.pause()
    const times = timesOf(this.cycle(period))
    const spans = this.seenSpans(times)
    this.texts = textPlaces(page, region, (slides) => spans.get(slides.join(' ')))
    const style = page.createElement('style')
    style.textContent =
      '.tln-header, .tln-copy, .tln-texts, .tln-end, .tln-pause, .tln-controls { opacity: 0 !important; }'
    page.head.append(style)
    const { bottom } = region.getBoundingClientRect()
    const windows = Math.max(1, Math.ceil(bottom / this.frame.contentWindow!.innerHeight))
    return { windows, texts: this.texts, times }
  }

  /** Waits for images and for what draws by itself; not for ever. */
  private async ready(region: HTMLElement, draws: boolean): Promise<void> {
    const until = performance.now() + WAIT_MS
    const images = [...region.querySelectorAll('img')]
    for (const image of images) image.loading = 'eager'
    const isReady = (): boolean =>
      images.every(({ complete }) => complete) &&
      (!draws || this.frame.contentWindow!.telonTurn?.(0) === true)
    while (!isReady() && performance.now() < until)
      await new Promise((resolve) => setTimeout(resolve, 50))
    await Promise.all(images.map((image) => image.decode().catch(() => undefined)))
  }

  /** What the style moves without end, by time alone. */
  private animations(): Animation[] {
    const { document: page, DocumentTimeline } = this.frame.contentWindow as Window &
      typeof globalThis
    return page.getAnimations().filter(({ timeline, effect }) => {
      if (!(timeline instanceof DocumentTimeline)) return false
      return effect!.getComputedTiming().iterations === Infinity
    })
  }

  /** How long it takes until everything has been seen: of a motion there and back one way. */
  private cycle(period: number | null): number {
    const cycles = this.animations().map(
      ({ effect }) => Number(effect!.getComputedTiming().duration) / 1000,
    )
    return Math.max(0, ...cycles) || (period ?? 0)
  }

  /** When words of slides are seen, by the slides they belong to. */
  private seenSpans(times: readonly number[]): ReadonlyMap<string, Span[]> {
    const boxes = [...this.page.querySelectorAll<HTMLElement>('.tln-region .tln-text')]
    const spans = new Map<string, Span[]>(
      boxes.map((box) => [box.dataset['tlnSlides'] ?? '', []] as const),
    )
    times.forEach((seconds, index) => {
      for (const animation of this.animations()) animation.currentTime = seconds * 1000
      for (const box of boxes) {
        const { opacity, visibility } = getComputedStyle(box)
        if (visibility === 'hidden' || Number(opacity) < SEEN) continue
        const to = times[index + 1] ?? Infinity
        spans.get(box.dataset['tlnSlides'] ?? '')!.push({ from: seconds, to })
      }
    })
    return spans
  }
}

function timesOf(cycle: number): number[] {
  const count = Math.min(MOST, Math.max(1, Math.ceil(cycle / STEP)))
  return Array.from({ length: count }, (_, index) => (index * cycle) / count)
}

const painted = (): Promise<void> =>
  new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(() => resolve())))
