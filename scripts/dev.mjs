import { attach } from './lib/run.mjs'
import { ensureDatabase, ensureModules, ensureBuild } from './lib/setup.mjs'

// The server on its usual port, and Vite in front of it with hot reload.
ensureModules()
const url = await ensureDatabase()
ensureBuild()
await Promise.all([
  attach(process.execPath, ['--import', 'tsx', '--watch', 'cli/serve.ts'], { DATABASE_URL: url }),
  attach('npx', ['vite', '--config', 'studio/vite.config.ts']),
])
