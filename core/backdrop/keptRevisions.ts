/** The parts of a revision that decide whether it is kept. */
export interface DatedRevision {
  readonly revision: number
  /** Milliseconds since 1970. */
  readonly atMs: number
}

const HOUR_MS = 3_600_000
const DAY_MS = 24 * HOUR_MS
/** How long one revision an hour is kept; after that one a day. */
const HOURLY_MS = 30 * DAY_MS

/**
 * The revisions that are kept as they age: all of the last day, then the last of every hour, and
 * after thirty days the last of every day (hours and days in UTC). The newest is always kept, and
 * so is the first, which records what a backdrop started from.
 */
export function keptRevisions(revisions: readonly DatedRevision[], nowMs: number): Set<number> {
  const ordered = [...revisions].sort((a, b) => a.revision - b.revision)
  const kept = new Set<number>()
  const lastOf = new Map<string, number>()
  for (const { revision, atMs } of ordered) {
    const age = nowMs - atMs
    if (age < DAY_MS) kept.add(revision)
    else if (age < HOURLY_MS) lastOf.set(`hour ${Math.floor(atMs / HOUR_MS)}`, revision)
    else lastOf.set(`day ${Math.floor(atMs / DAY_MS)}`, revision)
  }
  for (const revision of lastOf.values()) kept.add(revision)
  const [first, newest] = [ordered[0], ordered[ordered.length - 1]]
  if (first) kept.add(first.revision)
  if (newest) kept.add(newest.revision)
  return kept
}
