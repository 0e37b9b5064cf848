import { attach } from './lib/run.mjs'
import { ensureModules } from './lib/setup.mjs'

ensureModules()
process.exit(
  await attach(process.execPath, ['--import', 'tsx', 'bench/fuzz.ts', ...process.argv.slice(2)]),
)
