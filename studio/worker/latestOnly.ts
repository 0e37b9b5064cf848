/**
 * Carries out one request at a time; of those that come meanwhile only the latest is carried out
 * afterwards. A hand that drags asks for more frames than can be decoded: what matters is where it
 * is now.
 */
export function latestOnly<T>(carryOut: (request: T) => Promise<unknown>): {
  ask(request: T): void
  forget(): void
  readonly isBusy: boolean
} {
  let busy = false
  let next: { readonly request: T } | null = null
  const run = async (request: T): Promise<void> => {
    busy = true
    await carryOut(request).catch(() => undefined)
    busy = false
    const waiting = next
    next = null
    if (waiting) void run(waiting.request)
  }
  return {
    ask(request) {
      if (busy) next = { request }
      else void run(request)
    },
    /** Drops the waiting order; the running one continues. */
    forget() {
      next = null
    },
    get isBusy() {
      return busy
    },
  }
}
