import type { Size } from '../../fit/cover'
import { convertSrgbToOklab } from '../../picture/convertSrgbToOklab'
import { parseHex } from '../../picture/srgb'

/** What is found of a slide beside the others. */
export interface SlideFinding {
  /** Its place, counted from 0. */
  readonly slide: number
  readonly code: 'portrait' | 'darker' | 'brighter' | 'small' | 'repeated' | 'unmeasured'
  readonly weight: 'look' | 'note'
  /** Of a small one how many times it is enlarged; of darker and brighter ones the difference. */
  readonly figure: number
}

/** What is known of a slide's image. */
export interface SlideFacts extends Size {
  readonly sourceId: string
  readonly placing: 'cover' | 'contain' | 'tile'
  /** Whether it has no pixels: it is sharp at any size. */
  readonly isDrawing: boolean
  /** Its colours with their shares; empty where it was not measured. */
  readonly palette: readonly { readonly hex: string; readonly share: number }[]
}

/** A slide whose mean lightness (OKLab) is so far from the others' middle stands out. */
const APART = 0.22
/** Enlarged further than this, an image is seen to be soft. */
const MAX_SOFT = 1.25

/** Mean OKLab lightness of a palette, 0 to 1; null of an empty one. */
export function lightnessOf(palette: SlideFacts['palette']): number | null {
  const whole = palette.reduce((sum, { share }) => sum + share, 0)
  if (whole === 0) return null
  return (
    palette.reduce((sum, { hex, share }) => {
      const { r, g, b } = parseHex(hex)
      return sum + share * convertSrgbToOklab(r, g, b).lightness
    }, 0) / whole
  )
}

/** The middle of some values; NaN without any. */
function median(values: readonly number[]): number {
  const ordered = [...values].sort((a, b) => a - b)
  const at = Math.floor(ordered.length / 2)
  return ordered.length % 2 === 1 ? ordered[at]! : (ordered[at - 1]! + ordered[at]!) / 2
}

/**
 * What is found of slides together: one that is upright among wide ones, one that is much darker or
 * brighter than the others, one that is too small for `region` (in pixels of the widest screen).
 */
export function slideFindings(slides: readonly SlideFacts[], region: Size): SlideFinding[] {
  const wide = slides.filter(({ width, height }) => width >= height).length
  const lightness = slides.map(({ palette }) => lightnessOf(palette))
  return slides.flatMap((slide, index): SlideFinding[] => {
    const { width, height, placing, isDrawing, sourceId } = slide
    const found: SlideFinding[] = []
    const add = (code: SlideFinding['code'], weight: SlideFinding['weight'], figure = 0): void =>
      void found.push({ slide: index, code, weight, figure })
    if (height > width && wide > slides.length / 2 && placing === 'cover') add('portrait', 'look')
    const times = Math.max(region.width / width, region.height / height)
    if (placing === 'cover' && !isDrawing && times > MAX_SOFT) add('small', 'look', times)
    const own = lightness[index]
    const others = lightness.filter((each, at): each is number => at !== index && each !== null)
    if (own === null) add('unmeasured', 'note')
    else if (own !== undefined && others.length > 1) {
      const apart = own - median(others)
      if (Math.abs(apart) > APART) add(apart < 0 ? 'darker' : 'brighter', 'look', apart)
    }
    if (slides.findIndex((each) => each.sourceId === sourceId) < index) add('repeated', 'note')
    return found
  })
}

/** A finding in words: what it is, and what to do. */
export function describeSlideFinding({ code, figure }: SlideFinding): {
  readonly title: string
  readonly advice: string
} {
  switch (code) {
    case 'portrait':
      return {
        title: 'Upright among wide images',
        advice: 'Wide screens show a small part of it. Set its focal point, or show it whole.',
      }
    case 'darker':
    case 'brighter':
      return {
        title: `Much ${code} than the others`,
        advice: `By ${Math.round(Math.abs(figure) * 100)} % in lightness: copy that reads over the others may be lost on it. See Legibility per slide.`,
      }
    case 'small':
      return {
        title: 'Too small for wide screens',
        advice: `It is enlarged ${figure.toFixed(1)} times there and looks soft. Use a larger file.`,
      }
    case 'repeated':
      return {
        title: 'The same image as an earlier slide',
        advice: 'Remove it if that is not meant.',
      }
    case 'unmeasured':
      return { title: 'Not measured yet', advice: 'Its colours are read when the shelf is opened.' }
  }
}
