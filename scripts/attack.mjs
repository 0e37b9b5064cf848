import { attach } from './lib/run.mjs'
import { ensureBuild, ensureDatabase, ensureModules } from './lib/setup.mjs'

ensureModules()
ensureBuild()
const env = { DATABASE_URL: await ensureDatabase() }
process.exit(
  await attach(
    process.execPath,
    ['--import', 'tsx', 'bench/attack.ts', ...process.argv.slice(2)],
    env,
  ),
)
