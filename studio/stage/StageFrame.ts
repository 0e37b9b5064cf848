import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { BackdropAction } from '../../core/backdrop/reduce'
import { withoutWords } from '../../core/backdrop/writeWords'
import { coverRect, type Point } from '../../core/fit/cover'
import { classOfWindow, focalOn } from '../../core/fit/focal'
import { emitRegion } from '../../core/handoff/emitMarkup'
import { emitBackdropStyle, emitCopyStyle, emitPageStyle } from '../../core/handoff/emitStyle'
import { drawnLive, isRendered, styleTone } from '../../core/backdrop/delivered'
import { tintFilter, toneElement, toneFilter } from '../../core/handoff/toneCss'
import { isPlainTone, type Tone } from '../../core/tone/Tone'
import type { ScreenLayout } from '../../core/legibility/TextPlace'
import { moves } from '../../core/kinds'
import type { DeliveredMedia } from '../../core/kinds/DeliveredMedia'
import type { ShareRect } from '../../core/picture/pictureShape'
import { parseHex } from '../../core/picture/srgb'
import { easeInOut } from '../../core/kinds/easing'
import { failingBoxes } from '../../core/legibility/failingBoxes'
import { scrimOfWindow } from '../../core/backdrop/scrimOn'
import { frameContrast, neededContrast, type Box } from '../../core/scrim/frameContrast'
import type { DrawnCost, HeadingPlace } from '../state/stageStore'
import { kindView } from '../kinds'
import type { KindView } from '../kinds/KindView'
import type { ShownBase, ShownPicture } from '../kinds/KindView'
import { refuseStrayFiles } from '../ui/refuseStrayFiles'
import { StageCopy, type Editing } from './StageCopy'
import { aroundLetters } from '../layout/letterHalo'
import { textBox, textPlaces } from '../layout/textPlaces'
import { StageParticles, type BaseClock } from './StageParticles'

/** Where the delivered script keeps a visitor's pause. */
const PAUSED_KEY = 'tln-paused'

/** The stage's page shows one backdrop: which, is of no matter to its style. */
const ID = 'stage'

/**
 * Contrast is measured on the region drawn at this share of its size: a 4 px blur is then a cell of
 * 2.
 */
const MEASURE_SCALE = 0.5
const MEASURE_CELL = 2

/** What a canvas of particles is given to draw, and how often. */
const PARTICLE_DATA = / data-tln-rate="\d+" data-tln-particles='[^']*'/

/** An element of the scrim. */
const SCRIM = /\s*<div class="(tln-scrim[^"]*)"><\/div>/g

/** What shows slides and their words in turn. */
const CYCLED = '.tln-slides *, .tln-text'

/** What the contrast was measured on. */
export interface ContrastReading {
  /** Of all headings, in their order: slides may have their own. */
  readonly places: readonly HeadingPlace[]
  /** Null where the heading that is seen has no words, or lies outside. */
  readonly ratio: number | null
  readonly needed: number
  /** Where copy would have less than was asked for; null where nothing was. */
  readonly failing: readonly Box[] | null
}

/**
 * The stage's inner page: the markup, style and script that the handoff delivers, with the copy
 * open for writing. It never draws the backdrop itself; all it adds is a canvas for exact frames
 * while the cut is dragged.
 */
/** What is rendered into a clip is shown as one, whatever its base is. */
const viewOf = (document: BackdropDocument): KindView =>
  kindView(isRendered(document) ? 'footage' : document.base.kind)

export class StageFrame {
  private readonly frame: HTMLIFrameElement
  private readonly copy: StageCopy
  /** Whether the clip goes on when it is let go; null while it is not held. */
  private playsOn: boolean | null = null
  private readonly particles = new StageParticles(() => this.baseClock())
  private style: CSSStyleSheet | null = null
  private structure = ''
  /** Whether sources are shown in place of the files that are made of them. */
  private isStandIn = false

  constructor(
    frame: HTMLIFrameElement,
    onWrite: (action: BackdropAction, gesture: string) => void,
    onEditing: (editing: Editing | null) => void,
  ) {
    this.frame = frame
    this.copy = new StageCopy(onWrite, onEditing)
  }

  private get page(): Document {
    return this.frame.contentDocument!
  }

  get video(): HTMLVideoElement | null {
    return this.page.querySelector('.tln-video')
  }

  /** Moves the clip to a moment of its loop, in seconds. */
  seek(seconds: number): void {
    const { video } = this
    if (!video) return
    if (video.readyState >= 1) video.currentTime = seconds
    // What has just been built is moved as soon as it can be, unless it was let go meanwhile.
    else
      video.addEventListener(
        'loadedmetadata',
        () => {
          if (this.playsOn !== null) video.currentTime = seconds
        },
        { once: true },
      )
  }

  /** Shows a document with its media; changes only what differs from what is shown. */
  show(given: BackdropDocument, media: DeliveredMedia, isStandIn = false, isTrial = false): void {
    const view = viewOf(given)
    const document = view.staged?.(given) ?? given
    this.isStandIn = isStandIn
    this.setStyle(
      [
        emitPageStyle(document),
        emitBackdropStyle(ID, document, media),
        emitCopyStyle(ID, document, media),
        isStandIn ? (view.standInStyle?.(document) ?? '') : '',
        this.toneStyle(document),
      ].join('\n'),
    )
    // The copy's words are kept apart: writing in it must not rebuild the page under the cursor.
    // So are the data of particles, which are drawn anew in place, and the scrim's elements.
    const markup = emitRegion(ID, withoutWords(document), media, 'stage')
    const structure =
      markup.replace(PARTICLE_DATA, '').replaceAll(SCRIM, '') +
      // Words that are only tried are not written in.
      (isTrial ? 'trial' : '')
    if (structure !== this.structure) this.build(document, media, structure, isTrial)
    this.layScrim([...markup.matchAll(SCRIM)].map(([, names]) => names!))
    this.copy.write(this.page, document)
    this.particles.show(this.page.querySelector('.stage-particles'), document)
  }

  /**
   * Shows the same on another screen: a clip that plays would keep the file that it chose for the
   * last one.
   */
  showAnew(...given: Parameters<StageFrame['show']>): void {
    this.structure = 'of another screen'
    this.show(...given)
  }

  /** Lays a source frame over the clip, or takes it away. */
  showFrame(picture: ImageBitmap | null, number = -1): void {
    const canvas = this.page.querySelector<HTMLCanvasElement>('.stage-frame')
    if (!canvas) return
    canvas.hidden = picture === null
    if (!picture) return
    canvas.width = picture.width
    canvas.height = picture.height
    canvas.getContext('2d')!.drawImage(picture, 0, 0)
    canvas.dataset['frame'] = String(number)
  }

  /** Holds what moves by style at rest, or lets it go on. */
  hold(still: boolean): void {
    this.page.documentElement.classList.toggle('stage-held', still)
  }

  /** Holds all at a moment, or lets what was playing go on from there. */
  park(seconds: number | null): void {
    const { video } = this
    if (video && seconds !== null) {
      this.playsOn ??= !video.paused
      video.pause()
      this.seek(seconds)
    } else if (video && this.playsOn) void video.play().catch(() => undefined)
    if (seconds === null) this.playsOn = null
    this.particles.park(seconds)
    for (const animation of this.cycle())
      if (seconds === null) animation.play()
      else {
        animation.pause()
        animation.currentTime = seconds * 1000
      }
  }

  private cycle(): Animation[] {
    const box = this.page.querySelector('.tln-slides')
    return [...this.page.querySelectorAll(box ? CYCLED : '.tln-moving')].flatMap((element) =>
      element.getAnimations(),
    )
  }

  /** Plays or pauses through the delivered pause control where there is one. */
  toggle(): void {
    const { video } = this
    const button = this.page.querySelector<HTMLButtonElement>('.tln-pause:not([hidden])')
    if (!this.baseClock()) this.toggleParticles()
    else if (button) button.click()
    else if (video?.paused) void video.play().catch(() => undefined)
    else video?.pause()
  }

  /** The contrast of the heading that is seen now; null while nothing can be read. */
  measure(document: BackdropDocument, failsBelow: number | null): ContrastReading | null {
    this.markSlide()
    const region = this.page.querySelector<HTMLElement>('.tln-region')
    const headings = [...this.page.querySelectorAll<HTMLElement>('.tln-heading')]
    const heading = headings.reduce<HTMLElement | undefined>(
      (seen, each) => (seen && opacityOf(seen) >= opacityOf(each) ? seen : each),
      undefined,
    )
    if (!region || !heading) return null
    const bounds = region.getBoundingClientRect()
    const width = Math.round(bounds.width * MEASURE_SCALE)
    const height = Math.round(bounds.height * MEASURE_SCALE)
    if (width < 2 || height < 2) return null
    const canvas = new OffscreenCanvas(width, height)
    const context = canvas.getContext('2d', { willReadFrequently: true })!
    const shown = this.seen(document, width, height)
    if (!this.drawn(context, document, shown)) return null
    const particles = this.particles.picture()
    if (particles) context.drawImage(particles, 0, 0, width, height)
    const data = readPixels(context, width, height)
    if (!data) return null
    const pixels = { data, width, height }
    const box = textBox(heading)
    const scaled = scaledBox(
      {
        x: box.left - bounds.left,
        y: box.top - bounds.top,
        width: box.width,
        height: box.height,
      },
      MEASURE_SCALE,
    )
    const scrim = scrimOfWindow(document, this.frame.clientWidth)
    const face = this.frame.contentWindow!.getComputedStyle(heading)
    const color = parseHex(document.copy.color)
    const plate = aroundLetters(face, heading)?.plate ?? null
    const ratio = frameContrast(pixels, scrim, scaled, color, MEASURE_CELL, plate)
    const failing =
      failsBelow === null
        ? null
        : failingBoxes(pixels, scrim, color, failsBelow, { scale: MEASURE_SCALE, plate }).map(
            (each) => scaledBox(each, 1 / MEASURE_SCALE),
          )
    return {
      ratio,
      failing,
      needed: neededContrast(parseFloat(face.fontSize), Number(face.fontWeight)),
      places: headings.map((each) => {
        const { left, top, width, height } = textBox(each)
        return {
          x: left - bounds.left,
          y: top - bounds.top,
          width,
          height,
          region: { width: bounds.width, height: bounds.height },
          plate,
        }
      }),
    }
  }

  /** A tone that the files will have, over what they are made from. */
  private toneStyle(document: BackdropDocument): string {
    if (isPlainTone(document.tone)) return ''
    const rule = (selector: string): string =>
      `.tln-region.tln-region${selector} { filter: ${toneFilter(document.tone)} ${tintFilter(document.tone)}; }`
    const standIn = this.isStandIn ? rule(` ${toneElement(drawnLive(document))}`) : ''
    return `${rule(' .stage-frame:not([data-frame="-1"])')}\n${standIn}`
  }

  /** What the style does to the colours of what is shown now. */
  private shownTone(document: BackdropDocument): Tone | null {
    const { tone } = document
    const isSource = this.page.querySelector('.stage-frame:not([hidden], [data-frame="-1"])')
    return isSource || (this.isStandIn && !isPlainTone(tone)) ? tone : styleTone(document)
  }

  /** Draws what is shown as the style shows it; whether there is anything. */
  private drawn(
    context: OffscreenCanvasRenderingContext2D,
    document: BackdropDocument,
    shown: ShownBase,
  ): boolean {
    const tone = this.shownTone(document)
    if (tone) context.filter = toneFilter(tone)
    const isDrawn = viewOf(document).draw(context, shown)
    context.filter = 'none'
    return isDrawn
  }

  /** What is shown behind the scrim now, to be drawn at a size. */
  private seen(document: BackdropDocument, width: number, height: number): ShownBase {
    return {
      document,
      picture: this.shownPicture(),
      focal: this.focal(document),
      progress: easeInOut(this.motion()?.progress ?? 0),
      seconds: this.motion()?.seconds ?? 0,
      slidePicture: (slide) => this.slidePicture(slide),
      width,
      height,
    }
  }

  /** Where the words and the button are on the picture, in shares of it; null while unknown. */
  copyPlace(document: BackdropDocument): ShareRect | null {
    const region = this.page.querySelector<HTMLElement>('.tln-region')
    const words = [
      ...this.page.querySelectorAll<HTMLElement>('.tln-heading, .tln-body, .tln-button'),
    ]
      .map(textBox)
      .filter((box) => box.width > 0)
    const picture = this.shownPicture()
    if (!region || words.length === 0 || !picture) return null
    const bounds = region.getBoundingClientRect()
    const { scale, shown } = coverRect(picture, bounds, this.focal(document))
    const [left, top] = [
      Math.min(...words.map((box) => box.left)),
      Math.min(...words.map((box) => box.top)),
    ]
    const [right, bottom] = [
      Math.max(...words.map((box) => box.right)),
      Math.max(...words.map((box) => box.bottom)),
    ]
    const clamp = (value: number): number => Math.min(1, Math.max(0, value))
    const [x, y] = [
      clamp((shown.x + (left - bounds.left) / scale) / picture.width),
      clamp((shown.y + (top - bounds.top) / scale) / picture.height),
    ]
    return {
      x,
      y,
      width: Math.max(0.02, clamp((shown.x + (right - bounds.left) / scale) / picture.width) - x),
      height: Math.max(0.02, clamp((shown.y + (bottom - bounds.top) / scale) / picture.height) - y),
    }
  }

  /** The focal point that the style takes in a window as wide as the stage's. */
  private focal({ fit, weight }: BackdropDocument): Point {
    const { innerWidth } = this.frame.contentWindow!
    return focalOn(fit, classOfWindow(innerWidth, weight.breakpoints))
  }

  /** Texts and button as they are laid out; null while there is no region. */
  layout(): ScreenLayout | null {
    const region = this.page.querySelector<HTMLElement>('.tln-region')
    if (!region) return null
    const { width, height } = region.getBoundingClientRect()
    return { region: { width, height }, texts: textPlaces(this.page, region) }
  }

  /** How high the region really is, in CSS pixels: it grows where its copy needs more room. */
  regionHeight(): number | null {
    return this.page.querySelector('.tln-region')?.getBoundingClientRect().height ?? null
  }

  /** What plays now: a clip, a motion by style, or particles; null where nothing moves. */
  clock(): BaseClock | null {
    return this.baseClock() ?? this.particles.clock()
  }

  /** What drawing particles costs here; null where there are none. */
  particleCost(): DrawnCost | null {
    return this.particles.cost()
  }

  /** The base behind the scrim as it is seen now, without particles; null where it is not known. */
  snapshot(document: BackdropDocument, width: number): OffscreenCanvas | null {
    const region = this.page.querySelector<HTMLElement>('.tln-region')?.getBoundingClientRect()
    if (!region || region.width === 0) return null
    const height = Math.round((width * region.height) / region.width)
    const canvas = new OffscreenCanvas(width, height)
    const context = canvas.getContext('2d')!
    return this.drawn(context, document, this.seen(document, width, height)) ? canvas : null
  }

  private baseClock(): BaseClock | null {
    const { video } = this
    if (video) return { seconds: video.currentTime, playing: !video.paused }
    const motion = this.motion()
    return motion && { seconds: motion.seconds, playing: motion.playing }
  }

  /** The motion by style: its time, and how far it has come on its way, 0 to 1. */
  private motion() {
    const slide = this.page.querySelector('.tln-slide:last-child')
    const [animation] = (slide ?? this.page.querySelector('.tln-moving'))?.getAnimations() ?? []
    if (!animation) return null
    return {
      seconds: Number(animation.currentTime ?? 0) / 1000,
      progress: animation.effect?.getComputedTiming().progress ?? 0,
      playing: animation.playState === 'running',
    }
  }

  /** Fills the marker of the slide that is seen, as the script does for visitors. */
  private markSlide(): void {
    const markers = [...this.page.querySelectorAll('.tln-marker')]
    if (markers.length === 0) return
    const slides = [...this.page.querySelectorAll('.tln-slide')]
    const seen = slides.findLastIndex(
      (slide) => slide.checkVisibility({ opacityProperty: true }) && isInPlace(slide),
    )
    markers.forEach((marker, index) => {
      if (index === seen % markers.length) marker.setAttribute('aria-current', 'true')
      else marker.removeAttribute('aria-current')
    })
  }

  private slidePicture(slide: number): ShownPicture | null {
    const image = this.page.querySelector<HTMLImageElement>(`.tln-slide-${slide + 1} .tln-poster`)
    return image?.complete && image.naturalWidth > 0
      ? { image, width: image.naturalWidth, height: image.naturalHeight }
      : null
  }

  private shownPicture(): ShownPicture | null {
    const canvas = this.page.querySelector<HTMLCanvasElement>('.stage-frame:not([hidden])')
    if (canvas) return { image: canvas, width: canvas.width, height: canvas.height }
    const { video } = this
    if (video && video.readyState >= 2)
      return { image: video, width: video.videoWidth, height: video.videoHeight }
    const poster = this.page.querySelector<HTMLImageElement>('.tln-poster')
    return poster?.complete && poster.naturalWidth > 0
      ? { image: poster, width: poster.naturalWidth, height: poster.naturalHeight }
      : null
  }

  private setStyle(text: string): void {
    const view = this.frame.contentWindow as (Window & typeof globalThis) | null
    if (!view) return
    if (!this.style) {
      this.style = new view.CSSStyleSheet()
      this.page.adoptedStyleSheets = [...this.page.adoptedStyleSheets, this.style]
    }
    this.style.replaceSync(text)
  }

  private build(
    document: BackdropDocument,
    media: DeliveredMedia,
    structure: string,
    isTrial: boolean,
  ): void {
    const { page } = this
    if (this.structure === '') this.begin(page)
    this.structure = structure
    // A pause is kept for a visitor's next page; the stage plays what has just been changed.
    this.frame.contentWindow?.sessionStorage.removeItem(PAUSED_KEY)
    // The markup comes from our own emitter, which escapes every word of the document. The
    // delivered script releases the former region and starts this one.
    page.body.innerHTML = emitRegion(ID, document, media, 'stage')
    // On the stage slides go round by style, as they do without script: so they can be held at a
    // moment. The part that only pauses what the style moves takes them for that.
    for (const box of page.querySelectorAll<HTMLElement>('.tln-slides')) {
      delete box.dataset['tlnOrder']
      for (const slide of box.children) slide.classList.add('tln-moving')
    }
    for (const group of page.querySelectorAll<HTMLElement>('.tln-controls')) group.hidden = false
    const canvas = page.createElement('canvas')
    canvas.className = 'stage-frame'
    canvas.hidden = true
    // The script would draw particles by its own clock: here they can be held and changed.
    const particles = page.querySelector('.tln-particles')
    if (particles) particles.className = 'stage-particles'
    if (particles && !moves(document.base)) this.openPause(page)
    page.querySelector('.stage-particles, .tln-scrim')?.before(canvas)
    if (!isTrial) this.copy.open(page, document)
  }

  /** The scrim's elements, by their classes: a clip plays on while layers are blended and moved. */
  private layScrim(wanted: readonly string[]): void {
    const shown = [...this.page.querySelectorAll('.tln-scrim')]
    if (shown.map(({ className }) => className).join() === wanted.join()) return
    const laid = wanted.map((className) =>
      Object.assign(this.page.createElement('div'), { className }),
    )
    shown[0]?.before(...laid)
    for (const element of shown) element.remove()
  }

  private toggleParticles(): void {
    this.particles.toggle()
    this.page
      .querySelector('.tln-pause')
      ?.classList.toggle('tln-paused', this.particles.clock()?.playing === false)
  }

  /** The pause control where only particles move: on the stage the script does not know of them. */
  private openPause(page: Document): void {
    const button = page.querySelector<HTMLButtonElement>('.tln-pause')
    if (!button) return
    button.hidden = false
    button.addEventListener('click', () => this.toggleParticles())
  }

  /** Loads the delivered script, once for the page: it starts and releases regions by itself. */
  private begin(page: Document): void {
    const script = page.createElement('script')
    script.src = '/runtime/backdrop.js'
    page.head.append(script)
    this.listen(page)
  }

  /**
   * Links lead nowhere on the stage, and undo works there as around it (while writing it is the
   * text's own).
   */
  private listen(page: Document): void {
    refuseStrayFiles(page)
    page.addEventListener(
      'click',
      (event) => (event.target as Element).closest('a') && event.preventDefault(),
    )
    page.addEventListener('keydown', (event) => {
      if ((event.target as Element).closest('[data-edit]')) return
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z')
        window.dispatchEvent(new KeyboardEvent('keydown', event))
    })
  }
}

const scaledBox = ({ x, y, width, height }: Box, scale: number): Box => ({
  x: x * scale,
  y: y * scale,
  width: width * scale,
  height: height * scale,
})

/** How much of a heading is seen: slides may have their own. */
function opacityOf(heading: HTMLElement): number {
  const text = heading.closest('.tln-text')
  return text ? Number(text.ownerDocument.defaultView!.getComputedStyle(text).opacity) : 1
}

/** Whether a slide is not parked far away. */
const isInPlace = (slide: Element): boolean => slide.getBoundingClientRect().top > -9999

/** The pixels of a canvas; null where browsers keep them: drawings may embed pages. */
function readPixels(
  context: OffscreenCanvasRenderingContext2D,
  width: number,
  height: number,
): Uint8ClampedArray | null {
  try {
    return context.getImageData(0, 0, width, height).data
  } catch (error) {
    if (error instanceof DOMException && error.name === 'SecurityError') return null
    throw error
  }
}
