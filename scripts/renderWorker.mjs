import { parseArgs } from 'node:util'
import { ensureBuild, ensureChromium, ensureModules, tryEncoders } from './lib/setup.mjs'
import { keepRenderWorker } from './lib/supervise.mjs'

const USAGE =
  'Usage: npm run render-worker -- --server URL --token TOKEN. Add the machine under Work, which shows this command with its token. TELON_WORKER_TOKEN serves as well, and is not seen in the list of processes.'

function options() {
  const { values } = parseArgs({
    options: { server: { type: 'string' }, token: { type: 'string' } },
  })
  const token = values.token ?? process.env.TELON_WORKER_TOKEN
  const server = URL.canParse(values.server ?? '') ? new URL(values.server) : null
  if (!token || !server || !['http:', 'https:'].includes(server.protocol)) throw new Error(USAGE)
  return { server: server.href, token }
}

// Joins this machine to a Telon elsewhere: it needs nothing but that server's address.
try {
  const { server, token } = options()
  ensureModules()
  ensureChromium()
  tryEncoders()
  ensureBuild()
  process.exit(await keepRenderWorker(server, token))
} catch (error) {
  console.error(
    error.code?.startsWith('ERR_PARSE_ARGS') ? `${error.message}\n${USAGE}` : error.message,
  )
  process.exit(2)
}
