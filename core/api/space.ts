import { z } from 'zod'
import { count, idSchema, share, text, whenSchema } from '../bounded'

/* What takes space, and what can be freed. Sizes are bytes. */

const files = z.object({ bytes: count(), files: count() })

/** A run that frees space: under way, or the last one. */
export const freeingSchema = z.object({
  stage: z.enum(['marking', 'freeing', 'finished', 'cancelled', 'failed']),
  /** Of the stage under way. */
  done: share(),
  freedBytes: count(),
  freedFiles: count(),
  message: text(500).nullable(),
})

const projectSpaceSchema = z.object({
  id: idSchema,
  name: text(120),
  /** Clips and images on the shelf, with their filmstrips. */
  sources: files,
  /** Finished files, proofs and measurements. */
  renditions: files,
  /** Uploads that have not finished. */
  uploads: files,
  revisions: count(),
})

export const spaceReportSchema = z.object({
  /** What the database takes on the disk, with its indexes and free pages. */
  onDisk: count(),
  /** All stored files together; content that several projects share is counted once. */
  stored: files,
  projects: z.array(projectSpaceSchema).max(10_000),
  freeable: z.object({
    /** Unused for thirty days and more. */
    now: files,
    /** Unused, and kept until thirty days have passed. */
    later: files,
    /** When the first of those can go. */
    nextAt: whenSchema.nullable(),
  }),
  freeing: freeingSchema.nullable(),
})

export const startFreeingSchema = z.object({
  /** Whether also to free what became unused in the last thirty days. */
  withoutGrace: z.boolean(),
})

export type SpaceReport = z.infer<typeof spaceReportSchema>
export type FreeingState = z.infer<typeof freeingSchema>
export type ProjectSpace = z.infer<typeof projectSpaceSchema>
