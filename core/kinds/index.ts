import { z } from 'zod'
import { footage } from './footage'
import { describedFootageSchema } from './footage/describeFootage'
import type { Footage } from './footage/Footage'
import type { FootageAction } from './footage/reduceFootage'
import { describedImageSchema, image } from './image'
import type { ImageBase } from './image/Image'
import type { ImageAction } from './image/reduceImage'
import type { Kind } from './Kind'
import { describedPaintSchema, paint } from './paint'
import type { Paint } from './paint/Paint'
import type { PaintAction } from './paint/reducePaint'
import { tonedSchema } from './Sequence'
import { describedSlideshowSchema, slideshow } from './slideshow'
import type { SlideshowAction } from './slideshow/reduceSlideshow'
import type { Slideshow } from './slideshow/Slideshow'
import {
  particleSequenceSchema,
  type BaseSequence,
  type ParticleSequence,
} from './particleSequence'
import type { WordsInTurn } from '../copy/Words'

/** The kinds of base. docs/kinds.md tells how to add one. */
export const KINDS = { footage, slideshow, image, paint } as const
export type KindName = keyof typeof KINDS
export const KIND_NAMES = Object.keys(KINDS) as KindName[]

/** What is drawn behind the copy: a union on `kind`. */
export type Base = Footage | Slideshow | ImageBase | Paint
export type BaseAction = FootageAction | SlideshowAction | ImageAction | PaintAction
/** Frames of a base, or of a base with particles. */
export type AnySequence = BaseSequence | ParticleSequence

export const baseSchema: z.ZodType<Base> = z.union([
  KINDS.footage.schema,
  KINDS.slideshow.schema,
  KINDS.image.schema,
  KINDS.paint.schema,
])

/** A base as the manifest describes it. */
export const describedBaseSchema = z.discriminatedUnion('kind', [
  describedFootageSchema,
  describedSlideshowSchema,
  describedImageSchema,
  describedPaintSchema,
])
export type DescribedBase = z.infer<typeof describedBaseSchema>

export const sequenceSchema: z.ZodType<AnySequence> = tonedSchema(
  z.union([
    KINDS.footage.sequenceSchema,
    KINDS.slideshow.sequenceSchema,
    KINDS.image.sequenceSchema,
    KINDS.paint.sequenceSchema,
    particleSequenceSchema,
  ]),
)

/** A kind whose own types are not known: its functions take what belongs to it. */
export type AnyKind = Kind<Base, BaseAction, BaseSequence, DescribedBase>

/** The kind of a base. Its functions take this base and the actions of its kind. */
export function kindOf({ kind }: Pick<Base, 'kind'>): AnyKind {
  return KINDS[kind] as unknown as AnyKind
}

/** Whether clips are rendered of a base. */
export const hasClips = (base: Base): boolean => kindOf(base).clips(base)

/** Whether a base moves on the page: only then there is a script, and something to pause. */
export const moves = (base: Base): boolean => kindOf(base).motion(base) !== null

/** The words that a base shows in turn; none where those of the backdrop stay. */
export const wordsOf = (base: Base): readonly WordsInTurn[] => kindOf(base).words?.(base) ?? []

/** The kind whose decision an action changes. */
function kindOfAction({ type }: BaseAction): AnyKind {
  const [first] = type.split('/')
  const name = KIND_NAMES.find((each) => KINDS[each].actions.includes(first!))
  if (!name) throw new TypeError(`No kind has the action ${type}`)
  return KINDS[name] as unknown as AnyKind
}

/** The base after an action; the same object where nothing changes, or it is another kind's. */
export function reduceBase(base: Base, action: BaseAction): Base {
  const kind = kindOf(base)
  return kindOfAction(action) === kind ? kind.reduce(base, action) : base
}

/** What a change of a base is called in the list of undo steps. */
export function labelOfBase(action: BaseAction): string {
  return kindOfAction(action).label(action)
}
