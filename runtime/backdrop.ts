/*
 * The script delivered to visitors' pages. No dependencies; its size is limited (npm run bench; a
 * test checks it). It starts each clip once its poster has loaded, and stops it while it is not
 * visible or not wanted.
 */

interface SavingConnection extends EventTarget {
  readonly saveData?: boolean
}

const calm = matchMedia('(prefers-reduced-motion: reduce)')
const reducedData = matchMedia('(prefers-reduced-data: reduce)')
const connection = (navigator as Navigator & { connection?: SavingConnection }).connection

/** The regions that are running, with how to release each. */
const running = new WeakMap<HTMLElement, () => void>()

/**
 * Runs a region's backdrop; returns how to release it: all that listens is taken away. A region
 * runs once.
 */
export function mount(region: HTMLElement): () => void {
  const held = running.get(region)
  if (held) return held
  const root = region.querySelector<HTMLElement>('.tln-backdrop')
  const video = region.querySelector<HTMLVideoElement>('.tln-video')
  if (!root || !video) return () => {}
  const life = new AbortController()
  const { signal } = life
  const listen = (
    target: EventTarget | undefined,
    type: string,
    act: () => void,
    once = false,
  ): void => target?.addEventListener?.(type, act, { signal, once })
  const button = region.querySelector<HTMLButtonElement>('.tln-pause')
  const poster = region.querySelector<HTMLImageElement>('.tln-poster')
  const rules = root.dataset
  let visible = false
  let paused = false
  let failed = false

  const fits = (): boolean =>
    [...video.querySelectorAll('source')].some(
      (source) => !source.media || matchMedia(source.media).matches,
    )

  const wanted = (): boolean =>
    !failed &&
    fits() &&
    !(rules['tlnReducedMotion'] === 'poster' && calm.matches) &&
    !(rules['tlnDataSaver'] === 'poster' && (connection?.saveData || reducedData.matches))

  const fail = (): void => {
    failed = true
    update()
  }

  const update = (): void => {
    const may = wanted()
    root.classList.toggle('tln-poster-only', !may)
    root.classList.toggle('tln-ended', video.ended)
    if (button) {
      button.hidden = !may || video.ended
      button.classList.toggle('tln-paused', paused)
      button.setAttribute(
        'aria-label',
        button.dataset[paused ? 'tlnPlayLabel' : 'tlnPauseLabel'] ?? '',
      )
    }
    if (!may || paused || !visible || document.hidden) {
      video.pause()
    } else if (video.paused && !video.ended) {
      // The attribute alone does not always mute a clip that was put in by script.
      video.muted = true
      video.preload = 'auto'
      video.playbackRate = Number(rules['tlnPlaybackRate'] ?? 1)
      video.play()?.catch((error: DOMException) => {
        // A pause that came first is not a refusal.
        if (error.name !== 'AbortError') fail()
      })
    }
  }

  const choose = (): void => {
    // Another source may fit now: after a change of preference the browser must choose again.
    if (wanted() && !video.currentSrc) video.load()
    update()
  }

  const observer = new IntersectionObserver((entries) => {
    visible = entries[entries.length - 1]!.isIntersecting
    update()
  })
  const start = (): void => {
    if (signal.aborted) return
    observer.observe(region)
    listen(document, 'visibilitychange', update)
    listen(calm, 'change', choose)
    listen(reducedData, 'change', choose)
    listen(connection, 'change', choose)
    listen(window, 'resize', choose)
    listen(video, 'ended', update)
    listen(
      video,
      'loadedmetadata',
      () => (video.playbackRate = Number(rules['tlnPlaybackRate'] ?? 1)),
    )
    // Fails only when the last of the sources did.
    listen(video, 'error', fail)
    video.querySelectorAll('source').forEach((source) =>
      listen(source, 'error', () => {
        if (video.networkState === HTMLMediaElement.NETWORK_NO_SOURCE && fits()) fail()
      }),
    )
    if (button) {
      listen(button, 'click', () => {
        paused = !paused
        update()
      })
    }
    update()
  }

  const whenPosterLoaded = (): void => {
    if (!poster || poster.complete) start()
    else ['load', 'error'].forEach((type) => listen(poster, type, start, true))
  }
  if (document.readyState === 'complete') whenPosterLoaded()
  else listen(window, 'load', whenPosterLoaded, true)

  const release = (): void => {
    life.abort()
    observer.disconnect()
    running.delete(region)
  }
  running.set(region, release)
  return release
}

document.querySelectorAll<HTMLElement>('.tln-region').forEach(mount)
