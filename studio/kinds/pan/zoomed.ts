import { insideView, MAX_ZOOM, type View } from '../../../core/kinds/image/Image'

/** A view at another zoom, about its own middle. */
export function zoomed({ x, y, zoom }: View, next: number): View {
  const near = Math.min(MAX_ZOOM, Math.max(1, next))
  return insideView({
    x: x + (1 / zoom - 1 / near) / 2,
    y: y + (1 / zoom - 1 / near) / 2,
    zoom: near,
  })
}
