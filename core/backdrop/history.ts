import { z } from 'zod'
import { DOCUMENT_VERSION } from './BackdropDocument'

/*
 * Undo keeps what changed, not copies of the document: a step is a list of places with the value
 * before and after. A gesture (a drag, a run of typing) carries one name, and steps of the same
 * gesture that follow each other are one. Both stacks are plain JSON, saved with the document, so
 * that a reload forgets nothing.
 */

/** Older steps are dropped: two hundred are more than anyone undoes. */
export const MAX_STEPS = 200
/**
 * Of all steps together as JSON: they are saved with the document, which the server takes up to
 * 4 MB of, and a step can hold pictures. The last step is kept however long it is.
 */
export const MAX_HISTORY_CHARS = 1_000_000
/** A step that changes everything still changes fewer places than this. */
const MAX_CHANGES = 500

const changeSchema = z.object({
  path: z.array(z.string().max(100)).max(20),
  from: z.unknown(),
  to: z.unknown(),
})

const stepSchema = z.object({
  label: z.string().max(120),
  gesture: z.string().max(100).nullable(),
  changes: z.array(changeSchema).max(MAX_CHANGES),
})

export const historySchema = z.object({
  /** The version of the documents that the steps lead to; `readStored` upgrades older ones. */
  version: z.literal(DOCUMENT_VERSION),
  past: z.array(stepSchema).max(MAX_STEPS),
  future: z.array(stepSchema).max(MAX_STEPS),
})

/** One place in a document, with its value before and after; absent values are undefined. */
export type Change = z.infer<typeof changeSchema>
/** What one undo takes back. */
export type HistoryStep = z.infer<typeof stepSchema>
/** The last step is the last of `past`; the next to redo is the last of `future`. */
export type History = z.infer<typeof historySchema>

export const EMPTY_HISTORY: History = { version: DOCUMENT_VERSION, past: [], future: [] }

/**
 * The places in which two JSON values differ. An array counts as one value, and so does an object
 * with other keys: a choice between kinds is replaced as a whole.
 */
export function differences(
  before: unknown,
  after: unknown,
  path: readonly string[] = [],
): Change[] {
  if (Object.is(before, after)) return []
  if (
    isPlain(before) &&
    isPlain(after) &&
    Object.keys(before).sort().join() === Object.keys(after).sort().join()
  ) {
    return Object.keys(before).flatMap((name) =>
      differences(before[name], after[name], [...path, name]),
    )
  }
  return JSON.stringify(before) === JSON.stringify(after)
    ? []
    : [{ path: [...path], from: before, to: after }]
}

/** A document with the changes applied, forwards or back. Untouched parts stay the same objects. */
export function applyChanges<T>(
  document: T,
  changes: readonly Change[],
  direction: 'forward' | 'back',
): T {
  const ordered = direction === 'forward' ? changes : [...changes].reverse()
  return ordered.reduce<unknown>(
    (value, change) => setAt(value, change.path, direction === 'forward' ? change.to : change.from),
    document,
  ) as T
}

/**
 * Adds a step. Joins the last one when both belong to the same gesture; clears what could be
 * redone.
 */
export function record(
  history: History,
  label: string,
  gesture: string | null,
  before: unknown,
  after: unknown,
): History {
  const changes = differences(before, after)
  if (changes.length === 0) return history
  const last = history.past[history.past.length - 1]
  if (last && gesture !== null && last.gesture === gesture && history.future.length === 0) {
    const start = applyChanges(before, last.changes, 'back')
    const joined = differences(start, after)
    const past = history.past.slice(0, -1)
    return {
      ...history,
      past: joined.length === 0 ? past : latest([...past, { label, gesture, changes: joined }]),
      future: [],
    }
  }
  return {
    ...history,
    past: latest([...history.past, { label, gesture, changes }]),
    future: [],
  }
}

/** Lengths of steps, which never change. */
const lengths = new WeakMap<HistoryStep, number>()

function lengthOf(step: HistoryStep): number {
  const known = lengths.get(step) ?? JSON.stringify(step).length
  lengths.set(step, known)
  return known
}

/** The last steps, as many as may be kept. */
function latest(steps: readonly HistoryStep[]): HistoryStep[] {
  const some = steps.slice(-MAX_STEPS)
  let sum = 0
  const first = some.findLastIndex((step) => (sum += lengthOf(step)) > MAX_HISTORY_CHARS)
  return some.slice(Math.min(first + 1, some.length - 1))
}

/** Takes back the last step; null when there is none. */
export function undo<T>(history: History, document: T): { history: History; document: T } | null {
  const step = history.past[history.past.length - 1]
  if (!step) return null
  return {
    document: applyChanges(document, step.changes, 'back'),
    history: { ...history, past: history.past.slice(0, -1), future: [...history.future, step] },
  }
}

/** Does the last undone step again; null when there is none. */
export function redo<T>(history: History, document: T): { history: History; document: T } | null {
  const step = history.future[history.future.length - 1]
  if (!step) return null
  return {
    document: applyChanges(document, step.changes, 'forward'),
    history: { ...history, past: [...history.past, step], future: history.future.slice(0, -1) },
  }
}

function isPlain(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

function setAt(value: unknown, path: readonly string[], to: unknown): unknown {
  const [name, ...others] = path
  if (name === undefined) return to
  const before = isPlain(value) ? value : {}
  const next = setAt(before[name], others, to)
  if (next === undefined) {
    const { [name]: _, ...kept } = before
    return kept
  }
  return { ...before, [name]: next }
}
