import { Tab, TabGroup, TabList } from '@headlessui/react'
import { Fragment } from 'react'
import { regionHeightPx } from '../../core/fit/cover'
import { moves } from '../../core/kinds'
import { elementCount } from '../../core/particles/elements'
import { prepare } from '../../core/particles/prepare'
import { CLASS_SCREENS } from '../../core/fit/screens'
import type { Balance, Readout } from '../rooms/Balance'
import type { BenchProps, DeckProps, Room } from '../rooms/Room'
import { ParticlesBench } from './ParticlesBench'
import { ParticlesDeck } from './ParticlesDeck'
import { PeriodGroup } from './PeriodGroup'
import { useParticleView } from './particleView'

const TABS = ['base', 'particles'] as const

/** A kind's room for its material, with the particles over it beside. */
export function materialWithParticles(own: Room): Room {
  function Bench(props: BenchProps) {
    const { tab, set } = useParticleView()
    const { particles } = props.document
    return (
      <>
        <TabGroup
          as={Fragment}
          selectedIndex={TABS.indexOf(tab)}
          onChange={(index) => set({ tab: TABS[index]! })}
        >
          <TabList
            aria-label="Base or particles"
            className="sticky top-0 z-10 flex border-b border-line bg-paper"
          >
            <Tab className={TAB}>{own.label === 'Material' ? 'Base' : own.label}</Tab>
            <Tab className={TAB}>
              Particles
              <span className="truncate text-xs font-normal text-muted">
                {particles ? particles.definition.name : 'none'}
              </span>
            </Tab>
          </TabList>
        </TabGroup>
        {tab === 'base' ? <own.Bench {...props} /> : <ParticlesBench {...props} />}
      </>
    )
  }
  function Deck(props: DeckProps) {
    const tab = useParticleView((state) => state.tab)
    return tab === 'base' ? <own.Deck {...props} /> : <ParticlesDeck {...props} />
  }
  return { ...own, Bench, Deck, read: (balance) => withCount(own.read(balance), balance) }
}

const TAB =
  'flex min-w-0 flex-1 items-baseline justify-center gap-2 border-b-2 border-transparent px-3 py-2 font-medium data-selected:border-curtain data-selected:bg-sheet'

/** A kind's room for timing, with the period of its particles below. */
export function timingWithParticles(own: Room): Room {
  function Bench(props: BenchProps) {
    const { document } = props
    return (
      <>
        <own.Bench {...props} />
        {document.particles && <PeriodGroup document={document} particles={document.particles} />}
      </>
    )
  }
  return { ...own, Bench, read: (balance) => withPeriod(own.read(balance), balance) }
}

/** The period of the particles, where nothing else takes time. */
function withPeriod(own: Readout, { document }: Balance): Readout {
  const { particles, base } = document
  if (!particles || moves(base)) return own
  return {
    figure: particles.definition.period.toFixed(1),
    unit: 's',
    note: 'period of the particles',
    standing: 'settled',
  }
}

/** A readout that names the particles where nothing of the material asks for attention. */
function withCount(own: Readout, { document }: Balance): Readout {
  const { particles } = document
  if (!particles || own.standing !== 'settled') return own
  const { definition } = particles
  const { width, height } = CLASS_SCREENS.laptop
  const shown = { width, height: regionHeightPx(document.fit.height, height) }
  const count = elementCount(prepare(definition), shown)
  return { ...own, note: `+ ${definition.name}, ${count}` }
}
