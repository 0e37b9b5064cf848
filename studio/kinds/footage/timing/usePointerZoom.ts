import { useEffect, type RefObject } from 'react'

/** Zooms by wheel and pinch around the pointer, and moves by a sideways wheel. */
export function usePointerZoom(
  element: RefObject<HTMLDivElement | null>,
  zoom: (factor: number, share: number) => void,
  pan: (share: number) => void,
): void {
  useEffect(() => {
    const target = element.current!
    const shareOf = (x: number): number => {
      const box = target.getBoundingClientRect()
      return (x - box.left) / box.width
    }
    // A listener of the page's own: React's would be passive, and the page would scroll.
    const wheel = (event: WheelEvent): void => {
      event.preventDefault()
      const sideways = event.shiftKey ? event.deltaY : event.deltaX
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        pan(sideways / target.clientWidth)
      else zoom(2 ** (-event.deltaY / (event.ctrlKey ? 80 : 240)), shareOf(event.clientX))
    }
    const fingers = new Map<number, number>()
    let distance = 0
    const spread = (): number => {
      const [one, other] = [...fingers.values()]
      return one === undefined || other === undefined ? 0 : Math.abs(one - other)
    }
    const down = (event: globalThis.PointerEvent): void => {
      if (event.pointerType !== 'touch') return
      fingers.set(event.pointerId, event.clientX)
      distance = spread()
    }
    const move = (event: globalThis.PointerEvent): void => {
      if (!fingers.has(event.pointerId)) return
      fingers.set(event.pointerId, event.clientX)
      const now = spread()
      if (fingers.size === 2 && distance > 10 && now > 10) {
        const [one, other] = [...fingers.values()]
        zoom(now / distance, shareOf((one! + other!) / 2))
        distance = now
      }
    }
    const up = (event: globalThis.PointerEvent): void => void fingers.delete(event.pointerId)
    target.addEventListener('wheel', wheel, { passive: false })
    target.addEventListener('pointerdown', down)
    target.addEventListener('pointermove', move)
    for (const name of ['pointerup', 'pointercancel'] as const) target.addEventListener(name, up)
    return () => {
      target.removeEventListener('wheel', wheel)
      target.removeEventListener('pointerdown', down)
      target.removeEventListener('pointermove', move)
      for (const name of ['pointerup', 'pointercancel'] as const)
        target.removeEventListener(name, up)
    }
  }, [element, zoom, pan])
}
