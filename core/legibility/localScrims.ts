import type { Box } from '../scrim/frameContrast'
import { evenLayer, type ScrimLayer } from '../scrim/Scrim'
import type { ScreenLayout, TextPlace } from './TextPlace'

/** How far a scrim reaches beyond the copy before it has gone, in shares of the region. */
const FADE = 0.2
/** Beyond copy by so much it has its whole strength: letters are not cut by a box. */
const MARGIN = 0.02
/** The largest radius that a scrim may have. */
const MOST_RADIUS = 2

/** A layer that covers some texts, and no more of the picture than it must. */
export interface LocalScrim {
  readonly kind: 'spot' | 'band'
  /** At full strength. */
  readonly layer: ScrimLayer
}

/** The least box, in shares of the region, that some texts of all screens are in; null for none. */
export function textsBox(
  layouts: readonly ScreenLayout[],
  isMeant: (text: TextPlace, layout: ScreenLayout) => boolean,
): Box | null {
  const boxes = layouts.flatMap((layout) =>
    layout.texts
      .filter((text) => isMeant(text, layout))
      .flatMap(({ boxes: own }) => own)
      .map(({ x, y, width, height }) => ({
        left: x / layout.region.width,
        top: y / layout.region.height,
        right: (x + width) / layout.region.width,
        bottom: (y + height) / layout.region.height,
      })),
  )
  if (boxes.length === 0) return null
  const within = (value: number): number => Math.min(1, Math.max(0, value))
  const left = within(Math.min(...boxes.map((box) => box.left)) - MARGIN)
  const top = within(Math.min(...boxes.map((box) => box.top)) - MARGIN)
  const right = within(Math.max(...boxes.map((box) => box.right)) + MARGIN)
  const bottom = within(Math.max(...boxes.map((box) => box.bottom)) + MARGIN)
  return { x: left, y: top, width: right - left, height: bottom - top }
}

/**
 * A soft spot around a box (in shares of the region), and a band along its longer side. Each has
 * its whole strength behind the box and fades out beyond it.
 */
export function localScrims(box: Box, color: string): LocalScrim[] {
  const full = { color, strength: 1 }
  const isFlat = box.height <= box.width
  const [from, to] = isFlat ? [box.y, box.y + box.height] : [box.x, box.x + box.width]
  /** What is left of the strength at an edge of the region so far away. */
  const left = (distance: number): number => Math.max(0, 1 - distance / FADE)
  const band: ScrimLayer = {
    ...evenLayer(color, 1),
    shape: 'linear',
    angleDeg: isFlat ? 180 : 90,
    stops: [
      { ...full, at: Math.max(0, from - FADE), strength: left(from) },
      { ...full, at: from },
      { ...full, at: to },
      { ...full, at: Math.min(1, to + FADE), strength: left(1 - to) },
    ],
  }
  // The ellipse that is as wide and high in shares, through the corners of the box.
  const inner = Math.hypot(box.width / 2, box.height / 2)
  const radius = Math.min(MOST_RADIUS, Math.max(0.1, inner + FADE))
  const spot: ScrimLayer = {
    ...evenLayer(color, 1),
    shape: 'radial',
    centre: { x: box.x + box.width / 2, y: box.y + box.height / 2 },
    radius,
    stops: [
      { ...full, at: 0 },
      { ...full, at: inner / radius },
      { ...full, at: 1, strength: 0 },
    ],
  }
  return [
    { kind: 'spot', layer: spot },
    { kind: 'band', layer: band },
  ]
}
