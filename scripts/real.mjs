import { attach } from './lib/run.mjs'
import { ensureBuild, ensureChromium, ensureModules } from './lib/setup.mjs'

ensureModules()
ensureChromium()
ensureBuild()
process.exit(
  await attach(process.execPath, ['--import', 'tsx', 'bench/real.ts', ...process.argv.slice(2)]),
)
