import { spawn, type ChildProcess } from 'node:child_process'
import { createInterface } from 'node:readline'
import { PROJECT_ROOT } from '../node/projectRoot'
import { makeDatabase } from '../server/testing/testServer'

/** The built server in a process of its own, as `npm start` runs it, on a database of its own. */
export class RunningServer {
  readonly databaseUrl: string
  private readonly drop: () => Promise<void>
  private child: ChildProcess | null = null
  url = ''

  private constructor(databaseUrl: string, drop: () => Promise<void>) {
    this.databaseUrl = databaseUrl
    this.drop = drop
  }

  static async start(port = 0): Promise<RunningServer> {
    const made = await makeDatabase()
    const server = new RunningServer(made.url, made.drop)
    await server.run(port)
    return server
  }

  /** Starts the process (again). Resolves when it says where it is. */
  async run(port = Number(new URL(this.url || 'http://x:0').port)): Promise<void> {
    const child = spawn(process.execPath, ['dist/server/serve.js'], {
      cwd: PROJECT_ROOT,
      env: { ...process.env, NODE_ENV: 'production', LOG_LEVEL: 'error', PORT: String(port), DATABASE_URL: this.databaseUrl },
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    this.child = child
    this.url = await new Promise<string>((resolve, reject) => {
      createInterface({ input: child.stdout! }).on('line', (line) => {
        const found = /http:\/\/\S+/.exec(line)
        if (found) resolve(found[0].replace('localhost', '127.0.0.1'))
      })
      child.once('exit', (code) => reject(new Error(`the server ended with ${code} before it listened`)))
    })
  }

  get pid(): number {
    return this.child?.pid ?? 0
  }

  get isRunning(): boolean {
    return this.child !== null && this.child.exitCode === null && this.child.signalCode === null
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
