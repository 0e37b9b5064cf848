/** Pictures that a filmstrip keeps: a few screens of them. */
const MAX_PICTURES = 500

/** The frames of a clip that a filmstrip holds; calls back when one arrives. */
export class StripPictures {
  private readonly held = new Map<string, ImageBitmap>()
  private readonly listeners = new Set<() => void>()
  private version = 0

  /** A picture for a frame: its own, or at a `step` above one that of a key frame near by. */
  find(number: number, step: number): ImageBitmap | null {
    return this.held.get(`1 ${number}`) ?? this.held.get(`${step} ${number}`) ?? null
  }

  add(number: number, step: number, picture: ImageBitmap): void {
    const key = `${step} ${number}`
    this.held.get(key)?.close()
    this.held.set(key, picture)
    this.changed()
  }

  /** Lets the oldest go where there are too many. */
  trim(): void {
    for (const [key, picture] of this.held) {
      if (this.held.size <= MAX_PICTURES) return
      picture.close()
      this.held.delete(key)
    }
  }

  clear(): void {
    for (const picture of this.held.values()) picture.close()
    this.held.clear()
    this.changed()
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  readonly getVersion = (): number => this.version

  private changed(): void {
    this.version += 1
    for (const listener of this.listeners) listener()
  }
}
