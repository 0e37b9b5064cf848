type Task = (lock: Lock | null) => unknown

/**
 * Locks as browsers have them, for stores that are tested without one: exclusive, by name, in the
 * order of asking.
 */
export class FakeLocks {
  private readonly queues = new Map<string, Promise<unknown>>()
  private readonly held = new Map<string, number>()

  /** What a closed tab held is free again. */
  release(name: string): void {
    this.held.delete(name)
    this.queues.delete(name)
  }

  readonly request = (async (name: string, ...rest: unknown[]): Promise<unknown> => {
    const task = rest[rest.length - 1] as Task
    const { signal } = (rest.length > 1 ? rest[0] : {}) as { signal?: AbortSignal }
    const before = this.queues.get(name) ?? Promise.resolve()
    const run = async (): Promise<unknown> => {
      signal?.throwIfAborted()
      this.held.set(name, (this.held.get(name) ?? 0) + 1)
      try {
        return await task({ name, mode: 'exclusive' })
      } finally {
        this.held.delete(name)
      }
    }
    const own = before.then(run, run)
    this.queues.set(
      name,
      own.catch(() => undefined),
    )
    return own
  }) as LockManager['request']

  readonly query = async (): Promise<LockManagerSnapshot> => ({
    held: [...this.held.keys()].map((name) => ({
      name,
      mode: 'exclusive' as const,
      clientId: 'x',
    })),
    pending: [],
  })
}
