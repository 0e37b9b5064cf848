import { randomUUID } from 'node:crypto'
import { cpus, hostname, setPriority } from 'node:os'
import { pictureEncoder } from '../encoders/encodePicture'
import { installedEncoders } from '../encoders/installed'
import { namesOf } from '../encoders/renderFile'
import { removeScratch, scratchFolder } from '../encoders/scratchFolder'
import { inProject } from '../node/projectRoot'
import { versionOf } from '../node/version'
import { RenderWorker } from './RenderWorker'
import { Refusal } from '../node/ServerRequests'
import { ServerLink } from './ServerLink'
import { SourceCache } from './SourceCache'

/** Lower than all that a person waits for; what it starts has it too. */
const PRIORITY = 10
/** Exit code where another start would end the same way. */
const EXIT_UNUSABLE = 2

/** A render worker of the server at TELON_SERVER, with the token TELON_WORKER_TOKEN. */
async function main(): Promise<void> {
  const { TELON_SERVER: server = 'http://localhost:4600', TELON_WORKER_TOKEN: token } = process.env
  if (!token) {
    console.error('A render worker needs a token: TELON_WORKER_TOKEN. npm start makes one.')
    process.exit(EXIT_UNUSABLE)
  }
  setPriority(PRIORITY)
  const [programs, pictures] = await Promise.all([installedEncoders(), pictureEncoder()])
  const encoders = { programs, pictures }
  const folder = await scratchFolder('telon-sources')
  const link = new ServerLink(server, token)
  const worker = new RenderWorker({
    link,
    sources: new SourceCache(link, folder),
    encoders,
    facts: {
      id: randomUUID(),
      name: hostname() || 'this machine',
      version: await versionOf(inProject('dist')),
      encoders: namesOf(encoders),
      machine: machineWords(),
      speeds: [],
    },
    say: (line) => console.log(`render worker: ${line}`),
  })
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => worker.stop())
  await worker.run().finally(() => removeScratch(folder))
}

/** The processors of this machine, without their maker's name: "8 processors, 3.4 GHz". */
function machineWords(): string {
  const all = cpus()
  // Some machines do not tell their clock.
  const clock = all[0]?.speed ? `, ${(all[0].speed / 1000).toFixed(1)} GHz` : ''
  return `${all.length} ${all.length === 1 ? 'processor' : 'processors'}${clock}`
}

main().then(
  () => process.exit(0),
  (error: unknown) => {
    console.error(`render worker: ${error instanceof Error ? error.message : String(error)}`)
    process.exit(error instanceof Refusal ? EXIT_UNUSABLE : 1)
  },
)
