import { useEffect, useRef, type RefObject } from 'react'

/** A canvas that shows a picture at the picture's own size, once it is there. */
export function usePicture(picture: ImageBitmap | null): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    // A picture that was closed in between has no size: the present one stays.
    if (!picture || !canvas.current || picture.width === 0) return
    canvas.current.width = picture.width
    canvas.current.height = picture.height
    canvas.current.getContext('2d')!.drawImage(picture, 0, 0)
  }, [picture])
  return canvas
}
