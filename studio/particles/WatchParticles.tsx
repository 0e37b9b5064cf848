import { useEffect } from 'react'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { liveParticlesOf } from '../../core/backdrop/delivered'
import { moves } from '../../core/kinds'
import type { Definition } from '../../core/particles/Definition'
import { drawLinks } from '../../core/particles/links'
import { painterOf } from '../../core/particles/Painter'
import { spriteImages } from './spriteImages'
import { prepare } from '../../core/particles/prepare'
import { parseHex } from '../../core/picture/srgb'
import { scrimOfWindow } from '../../core/backdrop/scrimOn'
import { frameContrast } from '../../core/scrim/frameContrast'
import { useStage, type HeadingPlace } from '../state/stageStore'

/** The region is drawn at this share of its size, and averaged in cells of 4 CSS pixels. */
const MEASURE_SCALE = 0.5
const CELL = 2
/** Moments of a period that are looked at. */
const MOMENTS = 24
/** Changes that follow one another quickly are measured together. */
const AFTER_MS = 500
/** How often the base is looked for until there is a picture of it. */
const LOOK_MS = 400

/**
 * Measures the heading over a whole period of particles, where nothing but them changes what is
 * behind it.
 */
export function WatchParticles({ document }: { document: BackdropDocument }) {
  const places = useStage((state) => state.headingPlaces)
  const set = useStage((state) => state.set)
  // In a clip they are behind the heading already.
  const definition = liveParticlesOf(document)
  const isWatched = definition !== null && !moves(document.base)
  const { base, tone, scrim, ownScrim, copy, fit } = document
  const key = JSON.stringify([
    isWatched,
    definition,
    base,
    tone,
    scrim,
    ownScrim,
    copy.color,
    fit,
    places,
  ])
  useEffect(() => {
    const [place] = places
    if (!isWatched || !definition || !place || place.width === 0) return
    const stopped = { is: false }
    const measure = async (): Promise<void> => {
      const below = await pictureBelow(place, stopped)
      if (!below) return
      let worst: { ratio: number; seconds: number } | null = null
      for await (const each of contrasts(definition, document, place, below)) {
        if (stopped.is) return
        if (!worst || each.ratio < worst.ratio) worst = each
      }
      if (worst && !stopped.is)
        set({
          worst: { ratio: worst.ratio, where: `heading, at ${worst.seconds.toFixed(1)} s` },
        })
    }
    const timer = setTimeout(() => void measure(), AFTER_MS)
    return () => {
      stopped.is = true
      clearTimeout(timer)
    }
    // The key holds everything that counts.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key])
  useEffect(() => {
    if (!isWatched) return
    return () => set({ worst: null })
  }, [isWatched, set])
  return null
}

/** The base at the size that is measured; null where the measurement was stopped first. */
async function pictureBelow(
  { region }: HeadingPlace,
  stopped: { readonly is: boolean },
): Promise<OffscreenCanvas | null> {
  for (;;) {
    if (stopped.is) return null
    const below = useStage.getState().snapshot(Math.round(region.width * MEASURE_SCALE))
    if (below) return below
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS))
  }
}

/** The heading's contrast at moments spread over the period. */
async function* contrasts(
  definition: Definition,
  document: BackdropDocument,
  place: HeadingPlace,
  below: OffscreenCanvas,
): AsyncGenerator<{ ratio: number; seconds: number }> {
  const { copy } = document
  const scrim = scrimOfWindow(document, place.region.width)
  const { width, height } = below
  const layer = new OffscreenCanvas(width, height)
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  const images = await spriteImages(definition)
  const draw = painterOf(prepare(definition), place.region, MEASURE_SCALE, [drawLinks], images)
  const [x, y, wide, high] = [place.x, place.y, place.width, place.height].map(
    (value) => value * MEASURE_SCALE,
  ) as [number, number, number, number]
  for (let moment = 0; moment < MOMENTS; moment++) {
    // One at a time: the interface stays answering.
    await new Promise((resolve) => setTimeout(resolve))
    const seconds = (moment * definition.period) / MOMENTS
    context.drawImage(below, 0, 0)
    draw(layer.getContext('2d')!, seconds)
    context.drawImage(layer, 0, 0)
    const { data } = context.getImageData(0, 0, width, height)
    const box = { x, y, width: wide, height: high }
    const pixels = { data, width, height }
    const color = parseHex(copy.color)
    const ratio = frameContrast(pixels, scrim, box, color, CELL, place.plate)
    if (ratio !== null) yield { ratio, seconds }
  }
}
