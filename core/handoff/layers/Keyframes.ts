import { keyframesText, type Frame } from './slideFrames'

/** Writes animations with the same moments once. */
export class Keyframes {
  private readonly names = new Map<string, string>()
  private readonly id: string
  private readonly use: string

  constructor(id: string, use: string) {
    this.id = id
    this.use = use
  }

  /** The name of an animation with these moments. */
  name(frames: readonly Frame[], seconds: number): string {
    const text = keyframesText(frames, seconds)
    const known = this.names.get(text)
    if (known) return known
    const name = `tln-${this.use}${this.names.size || ''}-${this.id}`
    this.names.set(text, name)
    return name
  }

  rules(): string[] {
    return [...this.names].map(([text, name]) => `@keyframes ${name} { ${text} }`)
  }
}
