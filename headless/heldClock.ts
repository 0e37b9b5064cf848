/**
 * Runs in a page before its own script: where its address ends in `#held`, what draws by itself
 * stands still until `telonTurn` lets time pass (studio/harness/HeldPage.ts). It must not refer to
 * anything outside.
 */
export function heldClock(): void {
  if (location.hash !== '#held') return
  let now = 0
  let last = 0
  const waiting = new Map<number, FrameRequestCallback>()
  window.requestAnimationFrame = (act) => {
    waiting.set(++last, act)
    return last
  }
  window.cancelAnimationFrame = (number) => void waiting.delete(number)
  performance.now = () => now
  window.telonTurn = (milliseconds) => {
    now += milliseconds
    const due = [...waiting.values()]
    waiting.clear()
    for (const act of due) act(now)
    return due.length > 0
  }
}
