import { attach, run } from './lib/run.mjs'
import { ensureBuild, ensureChromium, ensureDatabase, ensureModules } from './lib/setup.mjs'

ensureModules()
ensureChromium()
ensureBuild()
run('npx', ['vite', 'build', '--config', 'bench/vite.config.ts'])
process.exit(
  await attach(process.execPath, ['--import', 'tsx', 'bench/run.ts', ...process.argv.slice(2)], {
    DATABASE_URL: await ensureDatabase(),
  }),
)
