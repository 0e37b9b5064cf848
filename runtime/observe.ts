import { MARK, mount, unmount, type Marked } from './mount'

/** Calls back once the page's markup is complete: a region may be half parsed before. */
export function whenParsed(act: () => void): void {
  if (document.readyState !== 'loading') act()
  else document.addEventListener('DOMContentLoaded', act, { once: true })
}

const REGION = '.tln-region'

/**
 * Runs every region of the page, those that appear later, and releases those that disappear: one
 * observer for the page, whatever the number of regions and of copies of the script.
 */
export function start(): void {
  const page = document as Marked<Document, true>
  if (page[MARK]) return
  page[MARK] = true
  const mounted = new Set<HTMLElement>()
  // One that was released by hand stays so while it is on the page.
  const run = (region: HTMLElement): void => {
    if (mounted.has(region)) return
    mount(region)
    if ((region as Marked<HTMLElement, () => void>)[MARK]) mounted.add(region)
  }
  const within = (node: Node, act: (region: HTMLElement) => void): void => {
    if (!(node instanceof Element)) return
    // Content that is put into a region late completes it.
    const around = node.closest<HTMLElement>(REGION)
    if (around) act(around)
    node.querySelectorAll<HTMLElement>(REGION).forEach(act)
  }
  whenParsed(() => {
    new MutationObserver((records) => {
      for (const region of mounted)
        if (!region.isConnected) {
          unmount(region)
          mounted.delete(region)
        }
      for (const { addedNodes } of records)
        addedNodes.forEach((node) => node.isConnected && within(node, run))
    }).observe(document, { childList: true, subtree: true })
    document.querySelectorAll<HTMLElement>(REGION).forEach(run)
  })
}
