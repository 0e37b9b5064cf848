import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { readFileSync } from 'node:fs'
import { createInterface } from 'node:readline'
import { inProject } from '../../node/projectRoot'

/** Clock ticks of the kernel in a second, as processes are accounted in them. */
const TICKS = 100

/** The built server in a process of its own, on a database that others may share. */
export class ServerProcess {
  private constructor(
    readonly url: string,
    readonly child: ChildProcess,
  ) {}

  /** Starts it on a free port of loopback; resolves when it answers. */
  static async start(
    databaseUrl: string,
    env: Record<string, string> = {},
  ): Promise<ServerProcess> {
    const child = spawn(process.execPath, [inProject('dist/server/serve.js')], {
      env: { ...process.env, PORT: '0', DATABASE_URL: databaseUrl, LOG_LEVEL: 'error', ...env },
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    const url = await new Promise<string>((resolve, reject) => {
      child.once('exit', (code) => reject(new Error(`the server ended with ${code}`)))
      createInterface({ input: child.stdout! }).on('line', (line) => {
        const [, address] = /^Telon is at (https?:\S+)/.exec(line) ?? []
        if (address) resolve(address.replace('localhost', '127.0.0.1'))
      })
    })
    return new ServerProcess(url, child)
  }

  /** Processor time that it has used, in seconds, and the most memory that it had, in bytes. */
  usage(): { readonly seconds: number; readonly bytes: number } {
    const stat = readFileSync(`/proc/${this.child.pid}/stat`, 'utf8')
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
    const status = readFileSync(`/proc/${this.child.pid}/status`, 'utf8')
    const [, kilobytes] = /^VmHWM:\s+(\d+) kB$/m.exec(status) ?? []
    return {
      seconds: (Number(fields[11]) + Number(fields[12])) / TICKS,
      bytes: Number(kilobytes) * 1024,
    }
  }

  /** Ends it at once, without its knowing. */
  async kill(): Promise<void> {
    await this.end('SIGKILL')
  }

  async stop(): Promise<void> {
    await this.end('SIGTERM')
  }

  private async end(signal: 'SIGKILL' | 'SIGTERM'): Promise<void> {
    const { child } = this
    if (child.exitCode !== null || child.signalCode !== null) return
    child.kill(signal)
    await once(child, 'exit')
  }
}
