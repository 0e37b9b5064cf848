import type { Base } from '../../core/kinds'
import { KIND_NAMES, type KindName } from '../../core/kinds'
import { kindView } from '../kinds'
import { materialWithParticles, timingWithParticles } from '../particles/withParticles'
import type { Balance, Readout } from '../rooms/Balance'
import { BehaviourBench } from '../rooms/behaviour/BehaviourBench'
import { BehaviourDeck } from '../rooms/behaviour/BehaviourDeck'
import { readBehaviour } from '../rooms/behaviour/readBehaviour'
import { FitBench } from '../rooms/fit/FitBench'
import { FitDeck } from '../rooms/fit/FitDeck'
import { readFit } from '../rooms/fit/readFit'
import { HandoffBench } from '../rooms/handoff/HandoffBench'
import { HandoffDeck } from '../rooms/handoff/HandoffDeck'
import { readHandoff } from '../rooms/handoff/readHandoff'
import { LegibilityBench } from '../rooms/legibility/LegibilityBench'
import { LegibilityDeck } from '../rooms/legibility/LegibilityDeck'
import { readLegibility } from '../rooms/legibility/readLegibility'
import type { OwnRoom } from '../kinds/KindView'
import type { Room } from '../rooms/Room'
import { readWeight } from '../rooms/weight/readWeight'
import { WeightBench } from '../rooms/weight/WeightBench'
import { WeightDeck } from '../rooms/weight/WeightDeck'

/** The rooms that every kind of base has; the first two are the kind's own. */
const SHARED = {
  legibility: {
    label: 'Legibility',
    read: readLegibility,
    Bench: LegibilityBench,
    Deck: LegibilityDeck,
    deckHeight: 'h-64',
  },
  fit: { label: 'Fit', read: readFit, Bench: FitBench, Deck: FitDeck, deckHeight: 'h-52' },
  behaviour: {
    label: 'Behaviour',
    read: readBehaviour,
    Bench: BehaviourBench,
    Deck: BehaviourDeck,
    deckHeight: 'h-52',
  },
  weight: {
    label: 'Weight',
    read: readWeight,
    Bench: WeightBench,
    Deck: WeightDeck,
    deckHeight: 'h-52',
  },
  handoff: {
    label: 'Handoff',
    read: readHandoff,
    Bench: HandoffBench,
    Deck: HandoffDeck,
    deckHeight: 'h-52',
  },
} as const satisfies Record<string, Room>

/** The rooms in the order of the work. */
export const ROOM_NAMES = [
  'material',
  'timing',
  'legibility',
  'fit',
  'behaviour',
  'weight',
  'handoff',
] as const
export type RoomName = (typeof ROOM_NAMES)[number]

/** The rooms of each kind, with the particles over it; made once, so that they stay the same. */
const OWN = Object.fromEntries(
  KIND_NAMES.map((kind) => {
    const { material, timing } = kindView(kind).rooms
    return [
      kind,
      { material: materialWithParticles(material), timing: timingWithParticles(timing) },
    ]
  }),
) as Readonly<Record<KindName, Readonly<Record<OwnRoom, Room>>>>

/** The rooms of a backdrop: those of its kind, and the shared ones. */
export function roomsOf({ kind }: Pick<Base, 'kind'>): Readonly<Record<RoomName, Room>> {
  return { ...OWN[kind], ...SHARED }
}

/** A room's state. */
export function readoutOf(name: RoomName, balance: Balance): Readout {
  return roomsOf(balance.document.base)[name].read(balance)
}
