import { fail, ok, type Result } from '../result'

/*
 * A reader of JSON (RFC 8259) that knows on which line each value stands: the engine's own tells
 * neither that nor, in every browser, where it stumbled.
 */

/** A value with the lines of everything in it. */
export interface PlacedJson {
  readonly value: unknown
  /** The line of a value by its path; of the nearest one around it, where it is not there. */
  lineOf(path: readonly PropertyKey[]): number
}

/** What is wrong with a text, and where. */
export interface PlacedProblem {
  /** Counted from 1. */
  readonly line: number
  readonly message: string
}

/** Deeper is nothing that is meant. */
const MAX_DEPTH = 20

class Stumble extends Error {}

/** Reads a text. Errors tell the line, and what was expected there. */
export function placesOf(text: string): Result<PlacedJson, PlacedProblem> {
  const reader = new Reader(text)
  try {
    const value = reader.readAll()
    return ok({ value, lineOf: (path) => reader.lineOf(path) })
  } catch (error) {
    if (error instanceof Stumble) return fail({ line: reader.line, message: error.message })
    throw error
  }
}

class Reader {
  /** The line that has been read so far, counted from 1. */
  line = 1
  private at = 0
  private readonly lines = new Map<string, number>()
  private readonly text: string

  constructor(text: string) {
    this.text = text
  }

  readAll(): unknown {
    const value = this.readValue('', 0)
    this.skipBlanks()
    if (this.at < this.text.length) throw new Stumble('Here something follows after the end.')
    return value
  }

  lineOf(path: readonly PropertyKey[]): number {
    for (let length = path.length; length >= 0; length--) {
      const names = path.slice(0, length).map((each) => `/${String(each)}`)
      const found = this.lines.get(names.join(''))
      if (found !== undefined) return found
    }
    return 1
  }

  private get sign(): string | undefined {
    return this.text[this.at]
  }

  private skipBlanks(): void {
    for (; /[ \t\r\n]/.test(this.sign ?? '-'); this.at++) if (this.sign === '\n') this.line++
  }

  private expect(sign: string): void {
    if (this.sign !== sign) throw new Stumble(`“${sign}” is missing here.`)
    this.at++
  }

  private readValue(path: string, depth: number): unknown {
    this.skipBlanks()
    if (depth > MAX_DEPTH) throw new Stumble('It is nested too deep.')
    this.lines.set(path, this.line)
    if (this.sign === '{') return this.readFields(path, depth + 1)
    if (this.sign === '[') return this.readList(path, depth + 1)
    return this.sign === '"' ? this.readText() : this.readPlain()
  }

  private readText(): string {
    const from = this.at
    this.expect('"')
    while (this.sign !== undefined && this.sign !== '"' && this.sign >= ' ')
      this.at += this.sign === '\\' ? 2 : 1
    if (this.sign !== '"') throw new Stumble('A text has no end.')
    this.at++
    try {
      return JSON.parse(this.text.slice(from, this.at)) as string
    } catch {
      throw new Stumble('A text holds a sign that cannot be read.')
    }
  }

  private readPlain(): unknown {
    const [word] = /^[-+.\w]+/.exec(this.text.slice(this.at, this.at + 40)) ?? ['']
    try {
      const value = JSON.parse(word) as unknown
      this.at += word.length
      return value
    } catch {
      throw new Stumble(word ? `“${word}” is no value.` : 'A value is missing here.')
    }
  }

  private readList(path: string, depth: number): unknown[] {
    const list: unknown[] = []
    for (const index of this.entries(']')) list.push(this.readValue(`${path}/${index}`, depth))
    return list
  }

  private readFields(path: string, depth: number): Record<string, unknown> {
    const fields = Object.create(null) as Record<string, unknown>
    for (const _ of this.entries('}')) {
      const { line } = this
      const name = this.readText()
      if (name in fields) throw new Stumble(`“${name}” stands here twice.`)
      this.skipBlanks()
      this.expect(':')
      fields[name] = this.readValue(`${path}/${name}`, depth)
      this.lines.set(`${path}/${name}`, line)
    }
    return { ...fields }
  }

  /** Goes through what stands between brackets and commas; each entry is read by the caller. */
  private *entries(end: string): Generator<number> {
    this.at++
    this.skipBlanks()
    for (let index = 0; this.sign !== end; index++) {
      if (index > 0) {
        this.expect(',')
        this.skipBlanks()
      }
      yield index
      this.skipBlanks()
    }
    this.at++
  }
}
