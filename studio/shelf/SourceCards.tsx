import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { Ellipsis } from 'lucide-react'
import { useEffect, useLayoutEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { SourceCard } from '../../core/api/wire'
import { describeFinding } from '../../core/material/describeFinding'
import { SourceThumb } from '../clip/SourceThumb'
import { useAnalysis } from '../state/analysisStore'
import { Button, Progress, StandingMark } from '../ui/controls'
import { formatLeft } from '../ui/format'
import { useNow } from '../ui/useNow'
import { factLines, standingOf } from './describe'
import { repairOffers, type RepairOffer } from './repairOffers'

/** What can be done with a source from the shelf. */
export type SourceAction = 'rename' | 'replace' | 'delete'

export interface CardsProps {
  readonly sources: readonly SourceCard[]
  readonly view: 'grid' | 'list'
  readonly selected: ReadonlySet<string>
  readonly onSelect: (id: string, on: boolean, range: boolean) => void
  readonly onAction: (action: SourceAction, source: SourceCard) => void
  readonly onRepair: (offer: RepairOffer, source: SourceCard) => void
  /** Called when the end of what is loaded comes near. */
  readonly onEnd: () => void
  /** What scrolls. */
  readonly scroller: HTMLElement
}

const CARD_WIDTH = 264
const GAP = 16
const LIST_ROW = 58

/** The shelf's sources, windowed: only what is in view is in the page, however many there are. */
export function SourceCards({ sources, view, onEnd, scroller, ...rest }: CardsProps) {
  const box = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(900)
  const [top, setTop] = useState(0)
  useLayoutEffect(() => {
    const measure = (): void => {
      setWidth(box.current?.clientWidth ?? 900)
      setTop(box.current?.offsetTop ?? 0)
    }
    const observer = new ResizeObserver(measure)
    observer.observe(box.current!)
    observer.observe(scroller)
    return () => observer.disconnect()
  }, [scroller])
  const columns = view === 'list' ? 1 : Math.max(1, Math.floor((width + GAP) / (CARD_WIDTH + GAP)))
  const cardWidth = (width - GAP * (columns - 1)) / columns
  const rows = Math.ceil(sources.length / columns)
  const rowHeight = view === 'list' ? LIST_ROW : Math.round((cardWidth * 9) / 16) + 132
  // The library's values change from render to render by design; nothing here is kept between them.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: rows,
    getScrollElement: () => scroller,
    estimateSize: () => rowHeight + (view === 'list' ? 6 : GAP),
    overscan: 3,
    scrollMargin: top,
  })
  useEffect(() => virtual.measure(), [rowHeight, virtual])
  const items = virtual.getVirtualItems()
  const last = items[items.length - 1]?.index ?? 0
  useEffect(() => {
    if (last >= rows - 3) onEnd()
  }, [last, rows, onEnd])
  const Card = view === 'list' ? ListCard : GridCard
  return (
    <div
      ref={box}
      role="list"
      aria-label="Sources"
      className="relative"
      style={{ height: virtual.getTotalSize() }}
    >
      {items.map((row) => (
        <div
          key={row.key}
          role="presentation"
          className="absolute left-0 grid w-full"
          style={{
            top: row.start - top,
            gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`,
            gap: GAP,
            height: rowHeight,
          }}
        >
          {sources.slice(row.index * columns, (row.index + 1) * columns).map((source) => (
            <Card key={source.id} source={source} {...rest} />
          ))}
        </div>
      ))}
    </div>
  )
}

type CardProps = Pick<CardsProps, 'selected' | 'onSelect' | 'onAction' | 'onRepair'> & {
  readonly source: SourceCard
}

function GridCard({ source, selected, onSelect, onAction, onRepair }: CardProps) {
  const [focused, setFocused] = useState(false)
  const [size, weight] = factLines(source)
  const on = selected.has(source.id)
  return (
    <div
      role="listitem"
      className={`@container flex flex-col overflow-hidden rounded-lg border bg-sheet ${on ? 'border-curtain ring-2 ring-curtain' : 'border-line'}`}
      onFocus={() => setFocused(true)}
      onBlur={() => setFocused(false)}
    >
      <div className="relative">
        <Link
          to={`../sources/${source.id}`}
          relative="path"
          aria-label={`Open ${source.name}`}
          className="[container-type:size] block"
          style={{ aspectRatio: '16 / 9' }}
        >
          <SourceThumb source={source} playing={focused} className="size-full" />
        </Link>
        <Tick source={source} enabled={on} onSelect={onSelect} className="absolute top-2 left-2" />
        <Badge source={source} />
      </div>
      <div className="flex min-h-0 flex-1 flex-col px-3 py-2">
        <div className="flex items-center justify-between gap-1">
          <h2 className="min-w-0 truncate font-semibold" title={source.name}>
            <Link to={`../sources/${source.id}`} relative="path" className="hover:underline">
              {source.name}
            </Link>
          </h2>
          <Actions source={source} onAction={onAction} onRepair={onRepair} />
        </div>
        <p className="truncate font-mono text-xs text-muted">
          {size}
          <br />
          {weight}
        </p>
        <Quality source={source} />
        <p className="mt-auto truncate text-xs text-muted" title={source.usedBy.join(', ')}>
          {source.usedBy.length === 0 ? 'not used yet' : `used by ${source.usedBy.join(', ')}`}
        </p>
      </div>
    </div>
  )
}

function ListCard({ source, selected, onSelect, onAction, onRepair }: CardProps) {
  const [focused, setFocused] = useState(false)
  const [size, weight] = factLines(source)
  const on = selected.has(source.id)
  return (
    <div
      role="listitem"
      className={`flex items-center gap-3 rounded border bg-sheet pr-1 pl-2 ${on ? 'border-curtain ring-1 ring-curtain' : 'border-line'}`}
      onFocus={() => setFocused(true)}
      onBlur={() => setFocused(false)}
    >
      <Tick source={source} enabled={on} onSelect={onSelect} />
      <Link
        to={`../sources/${source.id}`}
        relative="path"
        tabIndex={-1}
        aria-hidden
        className="[container-type:size] h-12 w-21 shrink-0 overflow-hidden rounded-sm"
      >
        <SourceThumb source={source} playing={focused} className="size-full" />
      </Link>
      <h2 className="w-52 min-w-0 shrink truncate font-semibold" title={source.name}>
        <Link to={`../sources/${source.id}`} relative="path" className="hover:underline">
          {source.name}
        </Link>
      </h2>
      <span className="w-64 shrink-0 truncate font-mono text-xs text-muted max-lg:hidden">
        {size}
      </span>
      <span className="w-52 shrink-0 truncate font-mono text-xs text-muted max-xl:hidden">
        {weight}
      </span>
      <span className="min-w-0 flex-1">
        <Quality source={source} />
      </span>
      <span
        className="w-36 shrink-0 truncate text-xs text-muted max-md:hidden"
        title={source.usedBy.join(', ')}
      >
        {source.usedBy.length === 0 ? 'not used yet' : `used by ${source.usedBy.join(', ')}`}
      </span>
      <Actions source={source} onAction={onAction} onRepair={onRepair} />
    </div>
  )
}

function Tick({
  source,
  enabled: on,
  onSelect,
  className = '',
}: {
  source: SourceCard
  enabled: boolean
  onSelect: CardsProps['onSelect']
  className?: string
}) {
  return (
    <label className={`grid size-6 place-items-center rounded bg-sheet/90 ${className}`}>
      <input
        type="checkbox"
        checked={on}
        aria-label={`Select ${source.name}`}
        className="size-4 accent-curtain"
        onChange={(event) =>
          onSelect(
            source.id,
            event.target.checked,
            (event.nativeEvent as MouseEvent).shiftKey === true,
          )
        }
      />
    </label>
  )
}

function Badge({ source }: { source: SourceCard }) {
  const { facts } = source
  const text = facts.kind === 'clip' ? `${(facts.durationMs / 1000).toFixed(1)} s` : 'image'
  return (
    <span className="pointer-events-none absolute right-2 bottom-2 rounded-sm bg-ink/80 px-1.5 font-mono text-xs text-white">
      {text}
    </span>
  )
}

/** A source's quality, or the progress of measuring it. */
function Quality({ source }: { source: SourceCard }) {
  const job = useAnalysis((state) => state.jobs[source.id])
  const { stop, again } = useAnalysis.getState()
  const now = useNow(job?.state === 'running')
  if (job?.state === 'running') {
    const left =
      job.startedAt !== null && job.done > 0.05
        ? ((now - job.startedAt) / 1000 / job.done) * (1 - job.done)
        : NaN
    return (
      <div className="mt-1 flex items-center gap-2 text-xs">
        <span className="min-w-0 flex-1">
          <span className="block truncate text-muted">measuring, {formatLeft(left)}</span>
          <Progress value={job.done} label={`Measuring ${source.name}`} />
        </span>
        <Button tone="quiet" className="min-h-6! px-1.5! text-xs" onClick={() => stop(source.id)}>
          Stop
        </Button>
      </div>
    )
  }
  if (job?.state === 'queued')
    return (
      <p className="mt-1 flex items-center gap-1.5 text-xs text-muted">
        <StandingMark standing="busy" />
        waiting to be measured
      </p>
    )
  if (job) {
    return (
      <p className="mt-1 flex items-center gap-1.5 text-xs">
        <StandingMark standing={job.state === 'failed' ? 'fix' : 'look'} />
        <span className="min-w-0 flex-1 truncate" title={job.message ?? undefined}>
          {job.message ?? 'not measured'}
        </span>
        <Button tone="quiet" className="min-h-6! px-1.5! text-xs" onClick={() => again(source)}>
          Measure
        </Button>
      </p>
    )
  }
  const telling = source.findings.filter((finding) => finding.weight !== 'note')
  const measured = source.measured || source.facts.kind === 'image'
  return (
    <p className="mt-1 flex items-center gap-1.5 truncate text-xs">
      <StandingMark standing={standingOf(source.findings, measured)} />
      <span className="truncate">
        {telling[0]
          ? describeFinding(telling[0]).title
          : source.facts.kind === 'image'
            ? 'nothing to repair'
            : measured
              ? `${source.liveliness}, nothing to repair`
              : 'not measured'}
      </span>
      {telling.length > 1 && (
        <span className="shrink-0 text-muted">and {telling.length - 1} more</span>
      )}
    </p>
  )
}

function Actions({
  source,
  onAction,
  onRepair,
}: {
  source: SourceCard
  onAction: CardsProps['onAction']
  onRepair: CardsProps['onRepair']
}) {
  const actions: { action: SourceAction; label: string }[] = [
    { action: 'rename', label: 'Rename' },
    ...(source.facts.kind === 'clip'
      ? [{ action: 'replace' as const, label: 'Replace where it is used' }]
      : []),
    { action: 'delete', label: 'Take off the shelf' },
  ]
  return (
    <Menu>
      <MenuButton
        aria-label={`More for ${source.name}`}
        className="grid size-7 shrink-0 place-items-center rounded hover:bg-ink/8"
      >
        <Ellipsis className="size-4" aria-hidden />
      </MenuButton>
      <MenuItems
        anchor="bottom end"
        className="z-30 rounded-md border border-line bg-sheet p-1 shadow-lg outline-none"
      >
        {repairOffers(source).map((offer) => (
          <MenuItem key={offer.label}>
            <button
              type="button"
              className="block w-full rounded px-3 py-1.5 text-left data-focus:bg-ink/8"
              onClick={() => onRepair(offer, source)}
            >
              {offer.label}
              <span className="block text-xs text-muted">{offer.note}</span>
            </button>
          </MenuItem>
        ))}
        {actions.map(({ action, label }) => (
          <MenuItem key={action}>
            <button
              type="button"
              className="block w-full rounded px-3 py-1.5 text-left data-focus:bg-ink/8"
              onClick={() => onAction(action, source)}
            >
              {label}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  )
}
