import { createStore } from 'zustand/vanilla'

/** What the server's answers have said about it so far. */
interface Answers {
  /** The version that the last answer named, as `version.ts` there writes it; null before any. */
  readonly version: string | null
  /** Answers that asked for a sign-in, or said that one has expired. */
  readonly refusals: number
}

/** `serverStore` follows it: the client below knows nothing of stores above it. */
export const answers = createStore<Answers>(() => ({ version: null, refusals: 0 }))

/** Notes an answer: `api` does, and uploads, which have their own client. */
export function noteAnswer(status: number, version: string | null): void {
  answers.setState((before) => ({
    version: version ?? before.version,
    refusals: before.refusals + (status === 401 ? 1 : 0),
  }))
}
