import { useEffect, useRef } from 'react'
import { baseOnScreen } from '../../../core/backdrop/contrastBase'
import type { MapCell } from '../../../core/legibility/loopMap'
import { scrimOn } from '../../../core/backdrop/scrimOn'
import type { Box } from '../../../core/scrim/frameContrast'
import { contrastOrder } from '../../layout/contrastOrder'
import type { LoadedSources } from '../../state/loadedSources'
import { frameWorker } from '../../state/frameWorker'
import { useContrastStore } from '../../state/contrastStore'
import { useStage } from '../../state/stageStore'
import { useAsync } from '../../ui/useAsync'
import { useContrastView } from './contrastView'
import type { StageArea } from './StageArea'

/** Hatches where copy of the present colour would not be read: now, or at any time of the loop. */
export function FailingOverlay({
  document,
  sources,
  width,
  height,
}: StageArea & { sources: LoadedSources }) {
  const overlay = useContrastView((state) => state.overlay)
  const now = useStage((state) => state.failing)
  const region = useStage((state) => state.layout?.region)
  const loop = useLoopMap(document, sources, overlay === 'loop')
  const needed = neededBy(document)
  if (overlay === 'none' || !region) return null
  const boxes = overlay === 'now' ? (now ?? []) : (loop ?? []).filter(({ ratio }) => ratio < needed)
  return <Hatch boxes={boxes} region={region} width={width} height={height} />
}

/** Small text needs more than a heading alone. */
export const neededBy = ({ copy }: StageArea['document']): number => (copy.body ? 4.5 : 3)

/** The map of the stage's screen; null while it is not known. */
function useLoopMap(
  document: StageArea['document'],
  sources: LoadedSources,
  isShown: boolean,
): readonly MapCell[] | null {
  const screen = useStage((state) => state.screen)
  const layout = useStage((state) => state.layout)
  const isReading = useContrastStore((state) => state.reading !== null)
  const base =
    isShown && !isReading && layout
      ? baseOnScreen(document, sources.known, screen, layout.region)
      : null
  const key =
    base && layout
      ? JSON.stringify([
          base.key,
          base.focal,
          layout.region,
          scrimOn(document, screen),
          document.copy.color,
        ])
      : null
  const { value } = useAsync(key, async (signal) => {
    const layouts = { phone: layout!, tablet: layout!, laptop: layout!, wide: layout! }
    const order = await contrastOrder(document, sources, layouts)
    const own = order?.screens.find(({ name }) => name === screen)
    if (!order || !own) return []
    const { map } = await frameWorker().run(
      {
        type: 'contrast-map',
        base: order.bases[own.base]!,
        screen: own,
        color: document.copy.color,
      },
      { signal },
    )
    return map
  })
  return value
}

function Hatch({
  boxes,
  region,
  width,
  height,
}: {
  boxes: readonly Box[]
  region: { readonly width: number; readonly height: number }
  width: number
  height: number
}) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const element = canvas.current!
    element.width = Math.max(1, Math.round(width))
    element.height = Math.max(1, Math.round(height))
    const context = element.getContext('2d')!
    context.save()
    context.beginPath()
    const [across, down] = [width / region.width, height / region.height]
    for (const box of boxes)
      context.rect(box.x * across, box.y * down, box.width * across, box.height * down)
    context.clip()
    // Light beside dark: seen on any picture.
    for (const [colour, shift] of [
      ['rgb(255 255 255 / 0.75)', 0],
      ['rgb(156 28 53 / 0.9)', 2],
    ] as const) {
      context.strokeStyle = colour
      context.lineWidth = 1.5
      context.beginPath()
      for (let x = -element.height; x < element.width; x += 8) {
        context.moveTo(x + shift, element.height)
        context.lineTo(x + shift + element.height, 0)
      }
      context.stroke()
    }
    context.restore()
  }, [boxes, region, width, height])
  return (
    <canvas
      ref={canvas}
      aria-hidden
      data-failing={boxes.length}
      className="pointer-events-none absolute top-0 left-0"
      style={{ width, height }}
    />
  )
}
