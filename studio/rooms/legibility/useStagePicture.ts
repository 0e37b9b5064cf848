import { useEffect, useState } from 'react'
import type { Rgb } from '../../../core/picture/srgb'
import { useStage } from '../../state/stageStore'

/** Pixels of the picture behind previews. */
const SHOWN_WIDTH = 240

/** The base as the stage shows it now. */
export interface StagePicture {
  readonly address: string
  /** The mean of its pixels; null where browsers keep them: drawings may embed pages. */
  readonly mean: Rgb | null
}

/** The base as the stage shows it when this begins; null until it is there. */
export function useStagePicture(): StagePicture | null {
  const snapshot = useStage((state) => state.snapshot)
  const [picture, setPicture] = useState<StagePicture | null>(null)
  useEffect(() => {
    let made: string | null = null
    let isOver = false
    const canvas = snapshot(SHOWN_WIDTH)
    void canvas
      ?.convertToBlob()
      // A picture that browsers keep to themselves has no previews.
      .catch(() => null)
      .then((blob) => {
        if (isOver || !blob) return
        made = URL.createObjectURL(blob)
        setPicture({ address: made, mean: meanOf(canvas) })
      })
    return () => {
      isOver = true
      if (made) URL.revokeObjectURL(made)
    }
  }, [snapshot])
  return picture
}

function meanOf(canvas: OffscreenCanvas): Rgb | null {
  const small = new OffscreenCanvas(1, 1)
  const context = small.getContext('2d')!
  context.imageSmoothingQuality = 'high'
  context.drawImage(canvas, 0, 0, 1, 1)
  try {
    const [r, g, b] = context.getImageData(0, 0, 1, 1).data
    return { r: r!, g: g!, b: b! }
  } catch {
    return null
  }
}
