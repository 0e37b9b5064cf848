import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { register } from 'tsx/esm/api'
import { ROOT } from './lib/run.mjs'

// Writes the JSON Schemas in docs/ from the Zod schemas they document.
register()
const { probeJsonSchema } = await import('../core/api/probeLine.ts')
const { legibilityJsonSchema } = await import('../core/api/legibilityLine.ts')
const { supportJsonSchema } = await import('../core/weight/support.ts')
const { particlesJsonSchema } = await import('../core/particles/Definition.ts')
const { batchJsonSchema } = await import('../cli/batch/BatchList.ts')
const { manifestJsonSchema } = await import('../core/handoff/manifest.ts')
writeFileSync(
  join(ROOT, 'docs/schema/manifest.schema.json'),
  `${JSON.stringify(manifestJsonSchema(), null, 2)}\n`,
)
writeFileSync(
  join(ROOT, 'docs/schema/particles.schema.json'),
  `${JSON.stringify(particlesJsonSchema(), null, 2)}\n`,
)
writeFileSync(
  join(ROOT, 'docs/schema/probe.schema.json'),
  `${JSON.stringify(probeJsonSchema(), null, 2)}\n`,
)
writeFileSync(
  join(ROOT, 'docs/schema/legibility.schema.json'),
  `${JSON.stringify(legibilityJsonSchema(), null, 2)}\n`,
)
writeFileSync(
  join(ROOT, 'docs/schema/support.schema.json'),
  `${JSON.stringify(supportJsonSchema(), null, 2)}\n`,
)
writeFileSync(
  join(ROOT, 'docs/schema/batch.schema.json'),
  `${JSON.stringify(batchJsonSchema(), null, 2)}\n`,
)
