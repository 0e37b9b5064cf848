import type { Listen, Mover, Part } from './Part'

/*
 * One region of a visitor's page: what moves in it starts once its poster has loaded, and stops
 * while it is not visible or not wanted. What moves comes from the parts of the script: a delivered
 * script holds those that its backdrop uses (core/handoff/scripts.ts). All forms are built from
 * this file; none has dependencies, and a test limits their sizes.
 */

/** The list of parts is put in its place when a script is delivered. */
declare const __TLN_PARTS__: readonly Part[]

interface SavingConnection extends EventTarget {
  readonly saveData?: boolean
}

/**
 * Marks what is at work already. A registered symbol: a page may load several copies of the script,
 * one with each backdrop, and none of them starts what another has started.
 */
export const MARK = Symbol.for('tln')

/** Anything that may carry the mark: a region its `unmount`, the document `true`. */
export type Marked<T, V> = T & { [MARK]?: V }

/** One key for the origin: a visitor who has paused one background is not met by the next. */
const PAUSED_KEY = 'tln-paused'

/**
 * Longest wait for the poster once its region is near, in milliseconds: on a slow line (1.6 Mbit/s)
 * posters within their limits take up to 1.5 s, and one that hangs must not hold the clip for ever.
 */
const POSTER_WAIT_MS = 6000

/** How far outside the window a clip may begin to load. */
const NEAR = '25%'

const none = (): void => {}

/** The visitor's choice for this visit. Storage may be refused, in frames without an origin. */
function remembered(value?: '0' | '1'): boolean {
  try {
    if (value) sessionStorage.setItem(PAUSED_KEY, value)
    return sessionStorage.getItem(PAUSED_KEY) === '1'
  } catch {
    return value === '1'
  }
}

/** Shows the pause control with its present name, or hides it. */
function showControl(region: HTMLElement, shown: boolean, paused: boolean): void {
  const button = region.querySelector<HTMLButtonElement>('.tln-pause')
  if (!button) return
  if (!shown && button === document.activeElement) {
    // A focused control that disappears would send the keyboard to the start of the page.
    region.tabIndex = -1
    region.focus({ preventScroll: true })
  }
  button.hidden = !shown
  button.classList.toggle('tln-paused', paused)
  button.setAttribute('aria-label', button.dataset[paused ? 'tlnPlayLabel' : 'tlnPauseLabel'] ?? '')
}

/** Whether the visitor's settings allow motion, by the rules of the markup. */
function motionAllowed({ dataset }: HTMLElement) {
  const calm = matchMedia('(prefers-reduced-motion: reduce)')
  const reducedData = matchMedia('(prefers-reduced-data: reduce)')
  const connection = (navigator as Navigator & { connection?: SavingConnection }).connection
  return {
    changes: [calm, reducedData, connection],
    now: (): boolean =>
      !(dataset['tlnReducedMotion'] === 'poster' && calm.matches) &&
      !(dataset['tlnDataSaver'] === 'poster' && (connection?.saveData || reducedData.matches)),
  }
}

/**
 * Runs a region's backdrop and returns how to release it: everything that listens is taken away. A
 * region runs once, however often it is mounted; where nothing moves inside, nothing happens.
 */
export function mount(region: HTMLElement): () => void {
  const marked = region as Marked<HTMLElement, () => void>
  const held = marked[MARK]
  if (held) return held
  const root = region.querySelector<HTMLElement>('.tln-backdrop')
  if (!root) return none
  const life = new AbortController()
  const { signal } = life
  const listen: Listen = (target, types, act, once = false) =>
    types.split(' ').forEach((type) => target?.addEventListener?.(type, act, { signal, once }))
  const motion = motionAllowed(root)
  let movers: Mover[] = []
  let near = false
  let waiting: ReturnType<typeof setTimeout> | undefined
  let ready = false
  let failed = false
  let mayRetry = true
  let paused = remembered()
  let told = 'pause'

  /** Does the same with all that moves; the answers. */
  const all = (act: keyof Mover): (boolean | void)[] => movers.map((mover) => mover[act]())
  const wanted = (): boolean => !failed && all('fits').includes(true) && motion.now()
  const tell = (state: 'play' | 'pause' | 'poster'): void => {
    if (state !== told && (state !== 'pause' || wanted()))
      region.dispatchEvent(new CustomEvent(`tln:${(told = state)}`, { bubbles: true }))
  }
  /** After a refusal, once: browsers that save power let a visitor's own gesture start a clip. */
  const again = (): void => {
    if (!failed || !mayRetry) return
    mayRetry = failed = false
    update()
  }
  const fail = (error?: unknown): void => {
    const { name } = (error ?? {}) as DOMException
    // A pause that came first is not a refusal.
    if (name === 'AbortError' || signal.aborted) return
    failed = true
    if (name === 'NotAllowedError' && mayRetry) listen(document, 'click keydown', again, true)
    update()
  }
  const update = (): void => {
    const may = wanted()
    const ends = all('ended')
    root.classList.toggle('tln-poster-only', !may)
    root.classList.toggle('tln-ended', ends.includes(true))
    showControl(region, may && ends.includes(false), paused)
    if (!may) tell('poster')
    all(!may || paused || !near || !ready || document.hidden ? 'pause' : 'play')
  }
  movers = __TLN_PARTS__.flatMap((part) => part(region, listen, update, fail, tell, signal) ?? [])
  if (!movers.length) return none

  const poster = region.querySelector<HTMLImageElement>('.tln-poster')
  const choose = (): void => {
    if (all('choose').includes(true)) failed = false
    update()
  }
  const start = (): void => {
    clearTimeout(waiting)
    ready = true
    update()
  }
  const showPoster = (good: boolean): void => void poster?.classList.toggle('tln-missing', !good)
  const observer = new IntersectionObserver(
    (entries) => {
      near = entries.pop()!.isIntersecting
      if (!near || ready) return update()
      // A poster below the window may be fetched only now: the wait begins here.
      if (!poster || poster.complete) start()
      else waiting ??= setTimeout(start, POSTER_WAIT_MS)
    },
    { rootMargin: NEAR },
  )
  const release = (): void => {
    life.abort()
    clearTimeout(waiting)
    observer.disconnect()
    delete marked[MARK]
    all('pause')
  }
  marked[MARK] = release

  listen(poster, 'load error', () => near && start())
  // A broken image has a sign of its own; another window may have another poster, which is good.
  listen(poster, 'load error', ({ type }) => showPoster(type === 'load'))
  if (poster?.complete) showPoster(poster.naturalWidth > 0)
  listen(document, 'visibilitychange', update)
  for (const change of motion.changes) listen(change, 'change', choose)
  listen(window, 'resize', choose)
  listen(region, 'click', ({ target }) => {
    if (!(target as Element).closest('.tln-pause')) return
    paused = !paused
    remembered(paused ? '1' : '0')
    update()
  })
  update()
  observer.observe(region)
  return release
}

/** Releases a region that runs; does nothing to others. */
export function unmount(region: HTMLElement): void {
  ;(region as Marked<HTMLElement, () => void>)[MARK]?.()
}
