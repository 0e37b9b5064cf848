/** Values that are remembered up to so many bytes: those go first that were wanted longest ago. */
export class Held<Value> {
  private readonly held = new Map<string, Value>()
  private bytes = 0

  constructor(
    private readonly maxBytes: number,
    private readonly bytesOf: (value: Value) => number,
  ) {}

  get(name: string): Value | undefined {
    const value = this.held.get(name)
    if (value === undefined) return undefined
    this.held.delete(name)
    this.held.set(name, value)
    return value
  }

  set(name: string, value: Value): void {
    // Two who measure at once may have made the same.
    this.drop(name)
    this.held.set(name, value)
    this.bytes += this.bytesOf(value)
    for (const oldest of this.held.keys()) if (this.bytes > this.maxBytes) this.drop(oldest)
  }

  private drop(name: string): void {
    const value = this.held.get(name)
    if (value !== undefined) this.bytes -= this.bytesOf(value)
    this.held.delete(name)
  }
}
