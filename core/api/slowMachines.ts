import { z } from 'zod'
import { count, figure } from '../bounded'
import { definitionSchema } from '../particles/Definition'
import { PARTICLE_RATES } from '../particles/Particles'

/** How many times slower the machines are that particles are tried on. */
export const SLOWDOWNS = [4, 8] as const

/** What is tried: particles on a region, in CSS pixels. */
export const slowOrderSchema = z.object({
  definition: definitionSchema,
  width: z.int().min(100).max(4000),
  height: z.int().min(100).max(4000),
  frameRate: z.literal(PARTICLE_RATES),
})
export type SlowOrder = z.infer<typeof slowOrderSchema>

/** How the delivered script did on a slowed machine. */
const slowRunSchema = z.object({
  factor: z.number().describe('How many times slower the machine was made.'),
  asked: count(2000).describe('Elements that it began with.'),
  drawn: count(2000).describe('Elements that were left; 0 where it showed the first picture.'),
  milliseconds: figure()
    .nullable()
    .describe('Of the main thread for a frame; null where nothing was drawn any more.'),
  framesPerSecond: figure(),
})
export type SlowRun = z.infer<typeof slowRunSchema>

/** All runs: of each slowdown with several numbers of elements, the asked one last. */
export const slowRunsSchema = z.object({ runs: z.array(slowRunSchema).max(20) })
export type SlowRuns = z.infer<typeof slowRunsSchema>

/** What was found at the last try, for the region that it was tried in. */
export const triedCostSchema = z.object({
  width: z.int().describe('Of the region, in CSS pixels.'),
  height: z.int(),
  runs: z
    .array(slowRunSchema)
    .max(SLOWDOWNS.length)
    .describe('The delivered script with all elements, on machines slowed by each factor.'),
})
export type TriedCost = z.infer<typeof triedCostSchema>

/** What is told of a try: of each slowdown the run with all elements, which is its last. */
export const triedCost = ({ width, height }: SlowOrder, { runs }: SlowRuns): TriedCost => ({
  width,
  height,
  runs: SLOWDOWNS.flatMap((factor) => runs.findLast((each) => each.factor === factor) ?? []),
})

/** Tries particles on slowed machines; `signal` ends it. */
export type TrySlowMachines = (order: SlowOrder, signal: AbortSignal) => Promise<SlowRuns>
