import type { Size } from '../picture/Size'

export type { Size }

/** A point as shares of width and height, 0 to 1. */
export interface Point {
  readonly x: number
  readonly y: number
}

/** Where a covering picture is placed: its scale, and the part of it that is visible. */
export interface Cover {
  /** Screen pixels for one picture pixel. */
  readonly scale: number
  /** The part that shows, in picture pixels. */
  readonly shown: {
    readonly x: number
    readonly y: number
    readonly width: number
    readonly height: number
  }
}

/**
 * How `object-fit: cover` lays a picture into a region: scaled to fill, the rest cut, `focal` as
 * `object-position`. Source: CSS Images Module Level 3, clauses 5.5 and 5.6.
 */
export function coverRect(picture: Size, region: Size, focal: Point): Cover {
  const scale = Math.max(region.width / picture.width, region.height / picture.height)
  const width = region.width / scale
  const height = region.height / scale
  return {
    scale,
    shown: {
      x: (picture.width - width) * focal.x,
      y: (picture.height - height) * focal.y,
      width,
      height,
    },
  }
}

/**
 * Where a browser paints a covering picture in the region, in whole CSS pixels: place and size are
 * rounded each (measured in Chromium, for clips and images alike: docs/method.md (contrast)).
 */
export function paintedRect(
  picture: Size,
  region: Size,
  focal: Point,
): Size & { readonly x: number; readonly y: number } {
  const { scale, shown } = coverRect(picture, region, focal)
  return {
    x: Math.round(-shown.x * scale),
    y: Math.round(-shown.y * scale),
    width: Math.round(picture.width * scale),
    height: Math.round(picture.height * scale),
  }
}

/** The share of the picture's width that a region keeps, 0 to 1. */
export function keptWidth(picture: Size, region: Size): number {
  return Math.min(1, coverRect(picture, region, { x: 0.5, y: 0.5 }).shown.width / picture.width)
}

/** The share of the picture's height that a region keeps, 0 to 1. */
export function keptHeight(picture: Size, region: Size): number {
  return Math.min(1, coverRect(picture, region, { x: 0.5, y: 0.5 }).shown.height / picture.height)
}

/**
 * The focal point after a drag of `dx`, `dy` screen pixels: the picture follows the pointer,
 * clamped to its edges. Along a side that is not cropped, the point stays.
 */
export function dragFocal(
  picture: Size,
  region: Size,
  focal: Point,
  dx: number,
  dy: number,
): Point {
  const { scale } = coverRect(picture, region, focal)
  const spareX = picture.width * scale - region.width
  const spareY = picture.height * scale - region.height
  const clamp = (value: number): number => Math.min(1, Math.max(0, value))
  const x = spareX < 0.5 ? focal.x : clamp(focal.x - dx / spareX)
  const y = spareY < 0.5 ? focal.y : clamp(focal.y - dy / spareY)
  return x === focal.x && y === focal.y ? focal : { x, y }
}

/** Region height on a screen, in CSS pixels: `svh` counts in hundredths of the window's height. */
export function regionHeightPx(
  height: { readonly unit: 'svh' | 'px'; readonly value: number },
  screenHeight: number,
): number {
  return height.unit === 'svh' ? Math.round((screenHeight * height.value) / 100) : height.value
}
