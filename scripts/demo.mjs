import { attach, run } from './lib/run.mjs'
import { ensureBuild, ensureChromium, ensureModules } from './lib/setup.mjs'

ensureModules()
ensureChromium()
ensureBuild()
run('npx', ['vite', 'build', '--config', 'demo/vite.config.ts'])
process.exit(
  await attach(process.execPath, ['--import', 'tsx', 'demo/make.ts', ...process.argv.slice(2)]),
)
