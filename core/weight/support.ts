import { z } from 'zod'
import { text } from '../bounded'
import { FAMILIES, type Family } from './families'
import table from './support.json'

const id = text(40).min(1)

/** Which engines play which format: a dated table with its sources, which a project may edit. */
export const supportSchema = z.object({
  $schema: text(300).optional(),
  date: z.iso.date().describe('When the table was last checked.'),
  engines: z
    .array(z.object({ id, name: text(60).min(1), where: text(200).describe('Who uses it.') }))
    .min(1)
    .max(12),
  formats: z
    .array(
      z.object({
        family: z.enum(FAMILIES),
        container: z.enum(['mp4', 'webm']),
        plays: z
          .array(
            z.object({
              engine: id,
              verdict: z
                .enum(['yes', 'some', 'no'])
                .describe('`some`: only some versions or devices; the note says which.'),
              note: text(300),
              source: id.describe('One of `sources`.'),
            }),
          )
          .max(24),
      }),
    )
    .max(24),
  sources: z.array(z.object({ id, what: text(500).min(1), date: z.iso.date() })).max(24),
})

export type SupportTable = z.infer<typeof supportSchema>

/** The table that comes with Telon. */
export const SUPPORT: SupportTable = supportSchema.parse(table)

/** How an engine takes a format. */
export interface EngineVerdict {
  readonly engine: string
  readonly verdict: 'yes' | 'some' | 'no'
  readonly note: string
}

/**
 * How each engine of a table supports a format; engines missing from the table count as not
 * supporting it.
 */
export function enginesFor(
  table: SupportTable,
  family: Family,
  container: 'mp4' | 'webm',
): EngineVerdict[] {
  const format = table.formats.find(
    (each) => each.family === family && each.container === container,
  )
  return table.engines.map(({ id: engine, name }) => {
    const entry = format?.plays.find((each) => each.engine === engine)
    return { engine: name, verdict: entry?.verdict ?? 'no', note: entry?.note ?? '' }
  })
}

/**
 * The JSON Schema of a support table (draft 2020-12); `docs/schema/support.schema.json` is made
 * from it.
 */
export function supportJsonSchema(): object {
  return z.toJSONSchema(supportSchema)
}
