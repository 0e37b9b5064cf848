import { fileURLToPath } from 'node:url'
import { build } from 'vite'

/** The delivered script, built anew in memory: tests need nothing in `dist/`. */
export async function builtScript(): Promise<string> {
  const configFile = fileURLToPath(new URL('../vite.config.ts', import.meta.url))
  const built = await build({ configFile, logLevel: 'error', build: { write: false } })
  const [bundle] = Array.isArray(built) ? built : [built]
  const chunk = bundle && 'output' in bundle ? bundle.output[0] : null
  if (!chunk) throw new Error('the script was not built')
  return chunk.code
}
