import { attach } from './lib/run.mjs'
import { ensureBuild, ensureDatabase, ensureModules, tryChromium } from './lib/setup.mjs'

// Needs nothing installed before it: plain Node, and Debian's packages fetched when they are missing.
try {
  ensureModules()
  tryChromium()
  const url = await ensureDatabase()
  ensureBuild()
  process.exit(await attach(process.execPath, ['--import', 'tsx', 'cli/serve.ts'], { DATABASE_URL: url }))
} catch (error) {
  console.error(error.message)
  process.exit(1)
}
