import { spawn, type ChildProcess } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { createInterface } from 'node:readline'
import { PROJECT_ROOT } from '../node/projectRoot'
import { makeDatabase } from '../server/testing/testServer'

/** Clock ticks of the kernel in a second, as processes are accounted in them. */
const TICKS = 100

/** The built server in a process of its own, as `npm start` runs it. */
export class RunningServer {
  readonly databaseUrl: string
  private readonly drop: () => Promise<void>
  private child: ChildProcess | null = null
  url = ''

  private constructor(
    databaseUrl: string,
    drop: () => Promise<void>,
    private readonly env: Readonly<Record<string, string>>,
  ) {
    this.databaseUrl = databaseUrl
    this.drop = drop
  }

  /**
   * Starts it on a free port, on the database that is given or on a new one, which goes when the
   * server stops.
   */
  static async start(
    databaseUrl?: string,
    env: Readonly<Record<string, string>> = {},
  ): Promise<RunningServer> {
    const made =
      databaseUrl === undefined
        ? await makeDatabase()
        : { url: databaseUrl, drop: async () => undefined }
    const server = new RunningServer(made.url, made.drop, env)
    await server.run()
    return server
  }

  /** Starts the process (again, on the same port). Resolves when it prints its address. */
  async run(): Promise<void> {
    const port = this.url ? new URL(this.url).port : '0'
    const child = spawn(process.execPath, ['dist/server/serve.js'], {
      cwd: PROJECT_ROOT,
      env: {
        ...process.env,
        ...this.env,
        NODE_ENV: 'production',
        LOG_LEVEL: 'error',
        PORT: port,
        DATABASE_URL: this.databaseUrl,
      },
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    this.child = child
    this.url = await new Promise<string>((resolve, reject) => {
      createInterface({ input: child.stdout! }).on('line', (line) => {
        const found = /http:\/\/\S+/.exec(line)
        if (found) resolve(found[0].replace('localhost', '127.0.0.1'))
      })
      child.once('exit', (code) =>
        reject(new Error(`the server ended with ${code} before it listened`)),
      )
    })
  }

  get pid(): number {
    return this.child?.pid ?? 0
  }

  get isRunning(): boolean {
    return this.child !== null && this.child.exitCode === null && this.child.signalCode === null
  }

  /** Processor time that it has used, in seconds, and the most memory that it had, in bytes. */
  usage(): { readonly seconds: number; readonly bytes: number } {
    const stat = readFileSync(`/proc/${this.pid}/stat`, 'utf8')
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
    const status = readFileSync(`/proc/${this.pid}/status`, 'utf8')
    const [, kilobytes] = /^VmHWM:\s+(\d+) kB$/m.exec(status) ?? []
    return {
      seconds: (Number(fields[11]) + Number(fields[12])) / TICKS,
      bytes: Number(kilobytes) * 1024,
    }
  }

  /** Ends the process at once, as a power cut would. */
  async kill(): Promise<void> {
    const { child } = this
    if (!child || !this.isRunning) return
    const gone = new Promise((resolve) => child.once('exit', resolve))
    child.kill('SIGKILL')
    await gone
  }

  async stop(): Promise<void> {
    await this.kill()
    await this.drop()
  }
}
