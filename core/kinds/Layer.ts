import type { Size } from '../fit/cover'
import type { DeliveredClip, DeliveredPoster } from './DeliveredMedia'
import type { ImageBase } from './image/Image'
import type { Paint } from './paint/Paint'
import type { Definition } from '../particles/Definition'
import type { Slideshow } from './slideshow/Slideshow'

/** The poster in its formats and sizes, wide screens first. */
export interface PictureLayer {
  readonly type: 'picture'
  readonly posters: readonly DeliveredPoster[]
}

/** A clip in its formats and sizes, wide screens first, over its poster. */
export interface VideoLayer {
  readonly type: 'video'
  readonly clips: readonly DeliveredClip[]
  /** In pixels, for the element's shape before a file is read; null where nothing is known. */
  readonly size: Size | null
  readonly loops: boolean
  /** Length of one loop, or of the whole. */
  readonly seconds: number
  /** Whether it fades to what is below it when it has ended. */
  readonly fades: boolean
}

/** The colour or gradient between the base and the copy: the document's scrim. */
export interface ScrimLayer {
  readonly type: 'scrim'
}

/** An image in its formats, sizes and densities, placed as its decisions say. */
export interface ImageLayer {
  readonly type: 'image'
  readonly image: ImageBase
  readonly posters: readonly DeliveredPoster[]
}

/** Colours that the style draws. */
export interface PaintLayer {
  readonly type: 'paint'
  readonly paint: Paint
}

/** Images that follow one another, each in its formats and sizes. */
export interface SlidesLayer {
  readonly type: 'slides'
  readonly slideshow: Slideshow
  readonly posters: readonly DeliveredPoster[]
}

/** Moving elements that the script draws. */
export interface ParticlesLayer {
  readonly type: 'particles'
  readonly definition: Definition
  readonly frameRate: number
}

/** What a backdrop shows behind its copy, from back to front. Each type has one emitter. */
export type Layer =
  PictureLayer | VideoLayer | SlidesLayer | ImageLayer | PaintLayer | ParticlesLayer | ScrimLayer
export type LayerType = Layer['type']
