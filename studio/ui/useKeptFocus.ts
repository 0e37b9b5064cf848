import { useEffect, useRef, type RefObject } from 'react'

/**
 * Keeps the focus in a table whose rows come and go: where the focused control is gone, the last
 * one of the row in its place has it, and not the page.
 */
export function useKeptFocus(table: RefObject<HTMLTableElement | null>): void {
  /** Of the row that has the focus, among those of the body; null where none has. */
  const at = useRef<number | null>(null)
  useEffect(() => {
    const note = ({ target }: Event): void => {
      const row = target instanceof Element ? target.closest('tbody tr') : null
      const isOwn = row !== null && table.current?.contains(row)
      at.current = isOwn ? rowsOf(table.current!).indexOf(row) : null
    }
    // A press beside all controls takes the focus from them without giving it to another.
    document.addEventListener('focusin', note)
    document.addEventListener('pointerdown', note)
    return () => {
      document.removeEventListener('focusin', note)
      document.removeEventListener('pointerdown', note)
    }
  }, [table])
  useEffect(() => {
    if (at.current === null || document.activeElement !== document.body) return
    const rows = table.current ? rowsOf(table.current) : []
    const buttons = rows[Math.min(at.current, rows.length - 1)]?.querySelectorAll('button')
    const button = buttons?.[buttons.length - 1]
    if (button) button.focus()
    else document.querySelector('h1')?.focus()
  })
}

const rowsOf = (table: HTMLTableElement): Element[] => [...table.querySelectorAll('tbody tr')]
