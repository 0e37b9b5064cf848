import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { build } from 'vite'
import type { DeliveredScripts } from '../../core/handoff/scripts'

async function builtScript(mode: string): Promise<string> {
  const configFile = fileURLToPath(new URL('../vite.config.ts', import.meta.url))
  const built = await build({ configFile, mode, logLevel: 'error', build: { write: false } })
  const [bundle] = Array.isArray(built) ? built : [built]
  const chunk = bundle && 'output' in bundle ? bundle.output[0] : null
  if (!chunk) throw new Error('the script was not built')
  return chunk.code
}

/** The delivered script in its forms and parts, built in memory: tests need nothing in `dist/`. */
export async function builtScripts(): Promise<DeliveredScripts> {
  return {
    forms: {
      classic: await builtScript('classic'),
      module: await builtScript('module'),
      element: await builtScript('element'),
    },
    parts: {
      video: await builtScript('video'),
      slides: await builtScript('slides'),
      controls: await builtScript('controls'),
      words: await builtScript('words'),
      holds: await builtScript('holds'),
      moving: await builtScript('moving'),
      particlePointer: await builtScript('particlePointer'),
      particleLinks: await builtScript('particleLinks'),
      particles: await builtScript('particles'),
    },
    types: readFileSync(new URL('../delivered/backdrop.d.ts', import.meta.url), 'utf8'),
  }
}
