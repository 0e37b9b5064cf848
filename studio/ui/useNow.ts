import { useEffect, useState } from 'react'

/**
 * The time by `performance.now()`, in milliseconds, followed in steps of half a second while
 * `active`.
 */
export function useNow(active: boolean): number {
  const [now, setNow] = useState(() => performance.now())
  useEffect(() => {
    if (!active) return
    const follow = (): void => setNow(performance.now())
    const soon = setTimeout(follow, 0)
    const timer = setInterval(follow, 500)
    return () => {
      clearTimeout(soon)
      clearInterval(timer)
    }
  }, [active])
  return now
}
