import { attach } from './lib/run.mjs'
import { ensureBuild, ensureChromium, ensureModules, tryEncoders } from './lib/setup.mjs'

// Runs in the caller's folder, so that relative file names work.
try {
  ensureModules()
  ensureBuild()
  const command = process.argv[2]
  if (command === 'deliver' || command === 'batch') ensureChromium()
  if (command === 'deliver') tryEncoders()
  const env = { TELON_CWD: process.env.INIT_CWD ?? process.cwd() }
  process.exit(
    await attach(process.execPath, ['dist/server/telon.js', ...process.argv.slice(2)], env),
  )
} catch (error) {
  console.error(error.message)
  process.exit(1)
}
