import { useEffect, useRef } from 'react'
import { NavLink, useLocation } from 'react-router'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { LoadedSources } from '../state/loadedSources'
import { toldWorst } from '../rooms/legibility/toldWorst'
import { freshOf, useContrastStore } from '../state/contrastStore'
import { useStage } from '../state/stageStore'
import { useWork } from '../state/workStore'
import { StandingMark } from '../ui/controls'
import { readoutOf, ROOM_NAMES, roomsOf } from './rooms'

/** The row of live readouts; each opens its bench and deck. */
export function BalanceBar({
  id,
  document,
  sources,
}: {
  id: string
  document: BackdropDocument
  sources: LoadedSources
}) {
  const { made, absent, lookProblem, jobs, apart, follow, proof } = useWork()
  const contrast = useStage((state) => state.contrast)
  const contrasts = useContrastStore((state) => state.contrasts)
  const watched = useStage((state) => state.worst)
  const worst = toldWorst(freshOf(contrasts, document, sources)) ?? watched
  const needed = useStage((state) => state.needed)
  const bar = useRef<HTMLElement>(null)
  const { pathname } = useLocation()
  // In narrow windows the bar is wider than what is seen of it.
  useEffect(() => {
    // In a block: newer browsers give back a promise, which an effect must not.
    void bar.current
      ?.querySelector('[aria-current=page]')
      ?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [pathname])
  // In whatever room: files may be rendered that another window has asked for.
  useEffect(() => follow({ document, sources }), [follow, document, sources])
  useEffect(() => () => follow(null), [follow])
  const rooms = roomsOf(document.base)
  const balance = {
    document,
    sources,
    made,
    absent,
    lookProblem,
    jobs: apart.length > 0 ? [...jobs, ...apart] : jobs,
    proof,
    contrast,
    worst,
    needed,
  }
  return (
    <nav
      ref={bar}
      aria-label="Balance"
      className="flex shrink-0 overflow-x-auto border-b border-line bg-paper"
    >
      {ROOM_NAMES.map((name) => {
        const { figure, unit, note, standing } = readoutOf(name, balance)
        return (
          <NavLink
            key={name}
            to={`/backdrops/${id}/${name}`}
            replace
            className="group min-w-36 flex-1 border-t-3 border-r border-t-transparent border-r-line px-3 pt-1.5 pb-2 last:border-r-0 hover:bg-sheet/60 aria-[current=page]:border-t-curtain aria-[current=page]:bg-sheet"
          >
            <span className="flex items-center justify-between">
              <span className="text-xs text-muted group-aria-[current=page]:text-ink">
                {rooms[name].label}
              </span>
              <StandingMark standing={standing} />
            </span>
            <span className="flex items-baseline gap-1 whitespace-nowrap">
              <span className="text-[1.55rem] leading-8 figure-face">{figure}</span>
              <span className="truncate text-xs figure-face text-muted">{unit}</span>
            </span>
            <span className="block truncate text-xs text-muted" title={note}>
              {note}
            </span>
          </NavLink>
        )
      })}
    </nav>
  )
}
