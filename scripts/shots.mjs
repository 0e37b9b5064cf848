import { attach } from './lib/run.mjs'
import { ensureBuild, ensureChromium, ensureDatabase, ensureModules } from './lib/setup.mjs'

ensureModules()
ensureChromium()
const url = await ensureDatabase()
ensureBuild()
process.exit(
  await attach(process.execPath, ['--import', 'tsx', 'e2e/shots.ts'], { DATABASE_URL: url }),
)
