import { execFileSync } from 'node:child_process'

const BRIDGE = 'tln0'
/** A network that is nobody else's: servers on the bridge, workers behind it. */
const NETWORK = '10.213.0'

const ip = (...words: string[]): void =>
  void execFileSync('ip', words, { stdio: ['ignore', 'ignore', 'pipe'] })

/** Network namespaces, as machines of their own beside this one: their lines can be cut. */
export class Namespaces {
  /** The address of this machine for them. */
  readonly address = `${NETWORK}.1`

  private constructor(private readonly count: number) {}

  /** Makes so many; null where the system does not let one, or has no `ip`. */
  static open(count: number): Namespaces | null {
    const made = new Namespaces(count)
    made.close()
    try {
      ip('link', 'add', BRIDGE, 'type', 'bridge')
      ip('addr', 'add', `${made.address}/24`, 'dev', BRIDGE)
      ip('link', 'set', BRIDGE, 'up')
      for (let index = 0; index < count; index++) made.add(index)
      return made
    } catch {
      made.close()
      return null
    }
  }

  /** What a command begins with that runs in one of them. */
  within(index: number): string[] {
    return ['ip', 'netns', 'exec', nameOf(index)]
  }

  /** Cuts the line of one: nothing passes, and nobody is told. */
  cut(index: number): void {
    ip('link', 'set', lineOf(index), 'down')
  }

  mend(index: number): void {
    ip('link', 'set', lineOf(index), 'up')
  }

  close(): void {
    for (let index = 0; index < this.count; index++) quietly('netns', 'del', nameOf(index))
    quietly('link', 'del', BRIDGE)
  }

  private add(index: number): void {
    const [name, line, far] = [nameOf(index), lineOf(index), `${lineOf(index)}b`]
    ip('netns', 'add', name)
    ip('link', 'add', line, 'type', 'veth', 'peer', 'name', far)
    ip('link', 'set', far, 'netns', name)
    ip('link', 'set', line, 'master', BRIDGE)
    ip('link', 'set', line, 'up')
    ip('-n', name, 'addr', 'add', `${NETWORK}.${10 + index}/24`, 'dev', far)
    ip('-n', name, 'link', 'set', far, 'up')
    // Workers talk to their own browser.
    ip('-n', name, 'link', 'set', 'lo', 'up')
  }
}

const nameOf = (index: number): string => `tln-worker-${index}`
const lineOf = (index: number): string => `tlnw${index}`

function quietly(...words: string[]): void {
  try {
    ip(...words)
  } catch {
    // It is not there.
  }
}
