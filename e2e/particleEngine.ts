import { fileURLToPath } from 'node:url'
import { build } from 'vite'
import { definitionSchema, type Definition } from '../core/particles/Definition'

/** What all engines are asked for. */
export const AREA = { width: 1280, height: 720 } as const
export const TIMES = [0, 0.1, 3.77, 11.5, 86_399.9] as const

/** Definitions that use everything. */
export const DEFINITIONS: readonly Definition[] = [3, 77, 4_000_123].map((seed) =>
  definitionSchema.parse({
    format: 'telon-particles',
    version: 1,
    name: 'Everything',
    seed,
    period: 13.7,
    perMegapixel: 200,
    shapes: [{ shape: 'leaf' }, { shape: 'streak', weight: 2 }],
    size: { from: 2, to: 19 },
    depth: { planes: 4, size: 0.6, speed: 0.7, softness: 0.3 },
    colours: { palette: [{ colour: '#ffffff' }, { colour: '#aabbcc', weight: 3 }] },
    opacity: { from: 0.1, to: 0.9 },
    motion: {
      direction: 203,
      spread: 70,
      speed: { from: 3, to: 190 },
      life: 4,
      sway: { distance: 31, seconds: 3 },
      wander: { distance: 44, seconds: 7 },
      spin: { from: -9, to: 20 },
      rise: 60,
      swell: 0.4,
      twinkle: { amount: 0.5, seconds: 2 },
    },
    where: { edge: 'bottom', from: 0.1, to: 0.9 },
  }),
)

/** A file of the engine as a script that sets `particles`. */
export async function engineScript(file = 'digest'): Promise<string> {
  const built = await build({
    configFile: false,
    logLevel: 'error',
    build: {
      write: false,
      minify: true,
      lib: {
        entry: fileURLToPath(new URL(`../core/particles/${file}.ts`, import.meta.url)),
        formats: ['iife'],
        name: 'particles',
      },
    },
  })
  const [bundle] = Array.isArray(built) ? built : [built]
  const chunk = bundle && 'output' in bundle ? bundle.output[0] : null
  if (!chunk) throw new Error('the engine was not built')
  return chunk.code
}

/** An expression that gives the digest of each definition, after the script. */
export const digestExpression = (script: string): string =>
  `${script};${JSON.stringify(DEFINITIONS)}.map((each) => particles.digestOf(each, ${JSON.stringify(AREA)}, ${JSON.stringify(TIMES)}))`
