import { useEffect, useRef, type RefObject } from 'react'

/** Plays pictures on a canvas over and over, `fps` a second. */
export function usePlayer(
  pictures: readonly ImageBitmap[],
  fps: number,
): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const first = pictures[0]
    if (!first || !canvas.current) return
    canvas.current.width = first.width
    canvas.current.height = first.height
    const context = canvas.current.getContext('2d')!
    const start = performance.now()
    let shown = -1
    let handle = 0
    const draw = (now: number): void => {
      handle = requestAnimationFrame(draw)
      const at = Math.floor(((now - start) * fps) / 1000) % pictures.length
      if (at === shown || at < 0) return
      shown = at
      // A new search closes the pictures of the last one.
      if (pictures[at]!.width > 0) context.drawImage(pictures[at]!, 0, 0)
    }
    handle = requestAnimationFrame(draw)
    return () => cancelAnimationFrame(handle)
  }, [pictures, fps])
  return canvas
}
