import { z } from 'zod'

export const ACROSS = ['start', 'center', 'end'] as const
export const DOWN = ['top', 'middle', 'bottom'] as const

/** Where the copy stands in its region, and how its lines are aligned: `start` is as they begin. */
export const copyPlaceSchema = z.object({
  across: z.enum(ACROSS),
  down: z.enum(DOWN),
  align: z.enum(ACROSS),
})
export type CopyPlace = z.infer<typeof copyPlaceSchema>

export const FIRST_PLACE = { across: 'start', down: 'middle', align: 'start' } as const

/** All places, row after row, each with the alignment that goes with it. */
export const COPY_PLACES: readonly CopyPlace[] = DOWN.flatMap((down) =>
  ACROSS.map((across) => ({ across, down, align: across })),
)

/** Whether copy stands in the same place, however it is aligned. */
export const isSamePlace = (one: CopyPlace, other: CopyPlace): boolean =>
  one.across === other.across && one.down === other.down

/** A place in words: `top, start`. */
export const placeText = ({ across, down }: CopyPlace): string => `${down}, ${across}`
