import { z } from 'zod'
import { DOCUMENT_VERSION, parseBackdrop, type BackdropDocument } from './BackdropDocument'
import {
  applyChanges,
  differences,
  EMPTY_HISTORY,
  historySchema,
  MAX_STEPS,
  type Change,
  type History,
  type HistoryStep,
} from './history'

/*
 * Documents are upgraded when they are read, but the undo steps stored with them refer to the
 * document version of their time: undoing a step of version 2 on a document of version 4 would
 * write a property that is never read. So the steps are replayed on the document as stored, every
 * intermediate state is upgraded, and new steps are computed between the upgraded states. The
 * history ends at the first step that does not fit the state before it. (Until version 4 the
 * document was upgraded without its history, so histories of mixed versions exist.)
 */

const looseStep = z.object({
  label: z.string(),
  gesture: z.string().nullable(),
  changes: z.array(z.object({ path: z.array(z.string()), from: z.unknown(), to: z.unknown() })),
})
const looseHistory = z.object({
  version: z.number().optional(),
  past: z.array(looseStep),
  future: z.array(looseStep),
})

/** A backdrop as it was stored, upgraded. */
export interface StoredBackdrop {
  readonly document: BackdropDocument
  readonly history: History
}

/**
 * Reads a stored document of any version with its history. Throws a `ZodError` where the document
 * has no known shape.
 */
export function readStored(storedDocument: unknown, storedHistory: unknown): StoredBackdrop {
  const parsed = parseBackdrop(storedDocument)
  if (!parsed.success) throw parsed.error
  const document = parsed.data
  const current = historySchema.safeParse(storedHistory)
  if (current.success) return { document, history: current.data }
  const loose = looseHistory.safeParse(storedHistory)
  if (!loose.success) return { document, history: EMPTY_HISTORY }
  const { past, future } = loose.data
  const back = upgradeSteps(storedDocument, document, [...past].reverse(), 'back')
  const forward = upgradeSteps(storedDocument, document, [...future].reverse(), 'forward')
  return {
    document,
    history: { version: DOCUMENT_VERSION, past: back.reverse(), future: forward.reverse() },
  }
}

/** The steps that lead away from a state, nearest first, each between upgraded states. */
function upgradeSteps(
  stored: unknown,
  upgraded: BackdropDocument,
  steps: readonly HistoryStep[],
  direction: 'forward' | 'back',
): HistoryStep[] {
  const result: HistoryStep[] = []
  let [raw, here] = [stored, upgraded]
  for (const { label, gesture, changes } of steps.slice(0, MAX_STEPS)) {
    if (!changes.every((change) => fits(raw, change, direction))) break
    const next = applyChanges(raw, changes, direction)
    const parsed = parseBackdrop(next)
    if (!parsed.success) break
    const between =
      direction === 'back' ? differences(parsed.data, here) : differences(here, parsed.data)
    // A step that only changed what documents no longer contain has no effect.
    if (between.length > 0) result.push({ label: label.slice(0, 120), gesture, changes: between })
    raw = next
    here = parsed.data
  }
  return result
}

/** Whether a change starts from the document's present value. */
function fits(
  document: unknown,
  { path, from, to }: Change,
  direction: 'forward' | 'back',
): boolean {
  let value: unknown = document
  for (const name of path) {
    if (typeof value !== 'object' || value === null) return false
    value = (value as Record<string, unknown>)[name]
  }
  return JSON.stringify(value) === JSON.stringify(direction === 'back' ? to : from)
}
