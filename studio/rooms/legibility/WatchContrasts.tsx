import { useEffect, useEffectEvent, useRef } from 'react'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { messageOf } from '../../api/client'
import { measuredKey, useContrastStore, type ScreenContrasts } from '../../state/contrastStore'
import { frameWorker } from '../../state/frameWorker'
import type { LoadedSources } from '../../state/loadedSources'
import { useStage } from '../../state/stageStore'
import { LayoutPage } from '../../layout/LayoutPage'
import { useTried } from '../../state/useTried'
import type { ContrastStep } from '../../worker/contrast/ContrastOrder'
import { contrastOrder } from '../../layout/contrastOrder'

/** Changes that follow one another quickly are measured together. */
const AFTER_MS = 80

/**
 * Measures the copy of a backdrop on all screens over all its frames, anew with each change that
 * matters. Shows nothing: its page lays the copy out.
 */
export function WatchContrasts({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const host = useRef<HTMLDivElement>(null)
  const page = useRef<LayoutPage | null>(null)
  const set = useContrastStore((state) => state.set)
  const attempt = useContrastStore((state) => state.attempt)
  const tried = useTried(document)
  const key = measuredKey(tried, sources)
  // What was measured of another backdrop is not shown.
  const forget = useEffectEvent(() => {
    if (useContrastStore.getState().contrasts?.key !== key) set({ contrasts: null })
  })
  useEffect(() => forget(), [])
  useEffect(() => {
    const own = new LayoutPage(host.current!)
    page.current = own
    return () => own.close()
  }, [])
  const measure = useEffectEvent(async (signal: AbortSignal): Promise<void> => {
    const known = useContrastStore.getState().contrasts
    if (known?.key === key && known.isWhole) return
    const layouts = await page.current!.measure(tried)
    if (signal.aborted) return
    const order = await contrastOrder(document, sources, layouts)
    if (signal.aborted) return
    if (!order) return set({ contrasts: null })
    const { screen: first } = useStage.getState()
    const isFirst = ({ name }: { name: string }): number => (name === first ? 0 : 1)
    // The lines of before stay until the new ones come, as long as they are of the same moments.
    const isSame = known?.screens[0]?.rows.length === order.moments.length
    let screens: readonly ScreenContrasts[] = isSame ? known.screens : []
    const take = (step: ContrastStep): void => {
      if (step.phase === 'reading') return set({ reading: step.done })
      const { contrasts } = useContrastStore.getState()
      const worst =
        step.phase === 'quick' ? step.worst : contrasts?.key === key ? contrasts.worst : []
      if (step.phase === 'screen')
        screens = [
          ...screens.filter(({ screen }) => screen !== step.screen),
          { screen: step.screen, layout: layouts[step.screen], rows: step.rows },
        ]
      set({ reading: null, contrasts: { key, screens, worst, isWhole: false } })
    }
    const { worst } = await frameWorker().run(
      {
        type: 'contrasts',
        ...order,
        screens: order.screens.toSorted((one, other) => isFirst(one) - isFirst(other)),
      },
      { signal, onStep: (step) => signal.aborted || take(step) },
    )
    set({ contrasts: { key, screens, worst, isWhole: true } })
  })
  useEffect(() => {
    const abort = new AbortController()
    set({ error: null })
    const timer = setTimeout(() => {
      measure(abort.signal).catch((error: unknown) => {
        if (!abort.signal.aborted) set({ error: messageOf(error), reading: null })
      })
    }, AFTER_MS)
    return () => {
      clearTimeout(timer)
      abort.abort()
      set({ reading: null })
    }
  }, [key, attempt, set])
  return (
    <div
      ref={host}
      aria-hidden
      className="pointer-events-none invisible fixed top-0 left-0 size-0 overflow-hidden"
    />
  )
}
