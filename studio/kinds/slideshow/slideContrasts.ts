import { create } from 'zustand'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { classOfWindow, focalOn } from '../../../core/fit/focal'
import { sceneAt, type SceneSlide } from '../../../core/kinds/slideshow/scene'
import { focalsOf, slideCycle, transitionOf } from '../../../core/kinds/slideshow/Slideshow'
import { parseHex } from '../../../core/picture/srgb'
import { scrimOfWindow } from '../../../core/backdrop/scrimOn'
import { frameContrast } from '../../../core/scrim/frameContrast'
import { fileTone, styleTone } from '../../../core/backdrop/delivered'
import { toneRgba } from '../../../core/tone/applyTone'
import { isPlainTone } from '../../../core/tone/Tone'
import type { HeadingPlace } from '../../state/stageStore'
import { drawScene, type SlideImage } from '../../worker/compose/drawSlides'

/** The contrast of the heading over a slide, and over the middle of the transition after it. */
export interface SlideContrast {
  /** The slide's id. */
  readonly id: number
  readonly full: number
  readonly middle: number
}

interface ContrastState {
  /** By slide, in their order; null while it is not measured. */
  readonly contrasts: readonly SlideContrast[] | null
  /** The key of what was measured. */
  readonly key: string
  set(fields: Partial<Pick<ContrastState, 'contrasts' | 'key'>>): void
}

/** The heading's contrast over every slide of the backdrop on screen. */
export const useSlideContrasts = create<ContrastState>((set) => ({
  contrasts: null,
  key: '',
  set: (fields) => set(fields),
}))

/** The region is drawn at this share of its size, and averaged in cells of 4 CSS pixels. */
const MEASURE_SCALE = 0.5
const CELL = 2

/** What contrast depends on. */
export interface ContrastOrder {
  readonly document: DocumentOf<'slideshow'>
  readonly place: HeadingPlace
  readonly pictures: ReadonlyMap<string, SlideImage>
}

/**
 * Measures the heading over a moment of the cycle; null where a picture has not come, or the
 * heading lies outside.
 */
export function contrastAt(
  { document, place, pictures }: ContrastOrder,
  scene: readonly SceneSlide[],
): number | null {
  const { base, fit, copy, weight } = document
  const scrim = scrimOfWindow(document, place.region.width)
  const [width, height] = [place.region.width, place.region.height].map((side) =>
    Math.max(2, Math.round(side * MEASURE_SCALE)),
  ) as [number, number]
  if (scene.some(({ slide }) => !pictures.has(base.slides[slide]!.sourceId))) return null
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  const screenClass = classOfWindow(place.region.width, weight.breakpoints)
  drawScene(context, scene, { width, height }, (index) => {
    const slide = base.slides[index]!
    return {
      place: {
        ...slide,
        tileWidth: slide.tileWidth * MEASURE_SCALE,
        focal: focalOn(focalsOf(slide, fit), screenClass),
      },
      picture: flattened(pictures.get(slide.sourceId)!, slide),
    }
  })
  const { data } = context.getImageData(0, 0, width, height)
  const tone = fileTone(document) ?? styleTone(document)
  if (tone && !isPlainTone(tone)) toneRgba(data, tone)
  const box = {
    x: place.x * MEASURE_SCALE,
    y: place.y * MEASURE_SCALE,
    width: place.width * MEASURE_SCALE,
    height: place.height * MEASURE_SCALE,
  }
  return frameContrast({ data, width, height }, scrim, box, parseHex(copy.color), CELL, place.plate)
}

/** An image over its colour, as its files have it. */
function flattened(
  picture: SlideImage,
  { opacity, background }: { readonly opacity: number; readonly background: string },
): SlideImage {
  if (opacity === 1) return picture
  const { width, height } = picture
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d')!
  context.fillStyle = background
  context.fillRect(0, 0, width, height)
  context.globalAlpha = opacity
  context.drawImage(picture.image, 0, 0, width, height)
  return { image: canvas, width, height }
}

/** What is measured of a slide: it alone, and the middle of the transition after it. */
export function scenesOf(
  document: DocumentOf<'slideshow'>,
  index: number,
): { readonly full: SceneSlide[]; readonly middle: SceneSlide[] } {
  const { base } = document
  const cycle = slideCycle(base)
  const transitions = base.slides.map((slide) => transitionOf(base, slide))
  const { fullFrom, leavesFrom, goneAt } = cycle.spans[index]!
  const full = sceneAt(cycle, transitions, (fullFrom + leavesFrom) / 2)
  const middle = sceneAt(cycle, transitions, (leavesFrom + goneAt) / 2)
  // Of a transition that takes no time both ends are seen, and they are measured by themselves.
  return { full, middle: goneAt > leavesFrom ? middle : full }
}
