import { useEffect, useRef, useState } from 'react'
import type { SlowOrder, SlowRun } from '../../core/api/slowMachines'
import { api, messageOf } from '../api/client'
import { costingParts } from '../../core/particles/costingParts'
import { useParticleView } from './particleView'

/** About how long a try takes. */
export const TRY_SECONDS = 30

const NONE: readonly SlowRun[] = []

/** Sides of regions that can be tried, in whole pixels. */
const within = (side: number): number => Math.min(4000, Math.max(100, Math.round(side)))

/** How particles did on slowed machines. */
export interface SlowMachines {
  /** Of what is shown now; none while that was not tried. */
  readonly runs: readonly SlowRun[]
  readonly trying: boolean
  readonly problem: string | null
  readonly begin: () => void
  readonly stop: () => void
}

/** Tries particles on slowed machines when asked, and forgets it when they change. */
export function useSlowMachines(order: SlowOrder): SlowMachines {
  const [made, setMade] = useState<{ key: string; runs: readonly SlowRun[] } | null>(null)
  const [trying, setTrying] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const abort = useRef<AbortController | null>(null)
  const { definition, frameRate } = order
  const [width, height] = [order.width, order.height].map(within) as [number, number]
  const key = JSON.stringify([costingParts(definition), width, height, frameRate])
  useEffect(() => () => abort.current?.abort(), [])
  const begin = (): void => {
    const mine = new AbortController()
    abort.current = mine
    setTrying(true)
    useParticleView.getState().set({ quiet: true })
    setProblem(null)
    api
      .trySlowMachines({ definition, width, height, frameRate }, mine.signal)
      .then(({ runs }) => setMade({ key, runs }))
      .catch((error: unknown) => {
        if (!mine.signal.aborted) setProblem(messageOf(error))
      })
      .finally(() => {
        setTrying(false)
        useParticleView.getState().set({ quiet: false })
      })
  }
  return {
    runs: made?.key === key ? made.runs : NONE,
    trying,
    problem,
    begin,
    stop: () => abort.current?.abort(),
  }
}
