import { z } from 'zod'
import { text } from '../bounded'
import { definitionSchema, MIN_PERIOD_SECONDS, type Definition } from './Definition'

/** How many frames a second are drawn: 60 cost twice as much. */
export const PARTICLE_RATES = [30, 60] as const
/** How the period follows the length of what moves below: not at all, or a share of it. */
const FOLLOWS = ['own', 'whole', 'half', 'third'] as const

/** Particles over a base, with what only this backdrop decides about them. */
export const particlesSchema = z.object({
  /** The style it began with, by its id; null for a definition of one's own. */
  style: text(40).nullable(),
  definition: definitionSchema,
  frameRate: z.union([z.literal(30), z.literal(60)]),
  follows: z.enum(FOLLOWS),
  /** Drawn by the script, or rendered with the base into one clip. */
  form: z.enum(['live', 'rendered']),
})
export type Particles = z.infer<typeof particlesSchema>

/** Shares of the length below, by how the period follows it. */
const SHARES = { whole: 1, half: 1 / 2, third: 1 / 3 } as const

/** Particles as they begin, of a style or of one's own. */
export const newParticles = (definition: Definition, style: string | null): Particles => ({
  style,
  definition,
  frameRate: 30,
  follows: 'whole',
  form: 'live',
})

/**
 * The definition as it is shown over something that takes `turnSeconds`; null where nothing moves
 * below. A share that is too short for a period is taken several times.
 */
export function shownDefinition(
  { definition, follows }: Particles,
  turnSeconds: number | null,
): Definition {
  if (follows === 'own' || turnSeconds === null) return definition
  const share = turnSeconds * SHARES[follows]
  return { ...definition, period: share * Math.ceil(MIN_PERIOD_SECONDS / share) }
}

/** The period nearest to another one of which a whole number takes `seconds`. */
export function dividingPeriod(period: number, seconds: number): number {
  const most = Math.max(1, Math.floor(seconds / MIN_PERIOD_SECONDS + 1e-6))
  return seconds / Math.min(most, Math.max(1, Math.round(seconds / period)))
}
