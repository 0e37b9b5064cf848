import { attach } from './lib/run.mjs'
import { ensureBuild, ensureChromium, ensureModules } from './lib/setup.mjs'

// Runs where the caller stands, so that file names mean what they say.
try {
  ensureModules()
  if (process.argv[2] === 'deliver') {
    ensureChromium()
    ensureBuild()
  }
  process.exit(await attach(process.execPath, ['--import', 'tsx', 'cli/main.ts', ...process.argv.slice(2)], { TELON_CWD: process.env.INIT_CWD ?? process.cwd() }))
} catch (error) {
  console.error(error.message)
  process.exit(1)
}
