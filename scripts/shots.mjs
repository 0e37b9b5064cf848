import { attach } from './lib/run.mjs'
import { ensureBuild, ensureChromium, ensureDatabase, ensureModules } from './lib/setup.mjs'

ensureModules()
ensureChromium()
const url = await ensureDatabase()
ensureBuild()
process.exit(
  await attach(process.execPath, ['--import', 'tsx', 'e2e/shots.ts', ...process.argv.slice(2)], {
    DATABASE_URL: url,
  }),
)
