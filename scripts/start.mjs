import {
  ensureBuild,
  ensureDatabase,
  ensureModules,
  tryChromium,
  tryEncoders,
} from './lib/setup.mjs'
import { supervise } from './lib/supervise.mjs'

// Needs nothing installed before it: plain Node, and Debian's packages fetched when they are
// missing.
try {
  ensureModules()
  tryChromium()
  tryEncoders()
  const url = await ensureDatabase()
  ensureBuild()
  process.exit(await supervise(url))
} catch (error) {
  console.error(error.message)
  process.exit(1)
}
