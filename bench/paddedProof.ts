import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { AnyRecipe } from '../core/api/recipes'
import type { ClipFacts } from '../core/api/wire'
import type { DocumentOf } from '../core/backdrop/BackdropDocument'
import { proofRecipe } from '../core/backdrop/recipe'
import { footageSequence, sequenceFrom } from '../core/kinds/footage/footageSequence'
import { madeSchema } from '../demo/seedDemo'
import { paddedClip } from '../server/testing/clip'

/** A finished file with the recipe it was made by. */
export interface Made {
  readonly recipe: AnyRecipe
  readonly facts: ClipFacts
  readonly bytes: Buffer
}

/**
 * A proof of the demonstration with `paddingBytes` more, in a box that players skip, under a recipe
 * that it keeps: another content and another recipe for every `number`.
 */
export async function paddedProof(
  demoFiles: string,
  document: DocumentOf<'footage'>,
  paddingBytes: number,
  number: number,
): Promise<Made> {
  const made = madeSchema.parse(JSON.parse(await readFile(join(demoFiles, 'made.json'), 'utf8')))
  const found = made.find(
    (each) => each.facts.kind === 'clip' && each.file !== null && each.file.endsWith('.mp4'),
  )!
  const facts = found.facts as ClipFacts
  const sha256 = createHash('sha256').update(`padded proof ${number}`).digest('hex')
  const source = { sha256, width: 1920, height: 1080 }
  const known = new Map([[document.base.material.sourceId, source]])
  const proof = proofRecipe(document, known)!
  const sequence = footageSequence(document.base, known)!
  const { loop, frameRate } = sequence
  const { num, den } = frameRate
  const recipe: AnyRecipe = {
    ...proof,
    width: facts.width,
    height: facts.height,
    sequence: sequenceFrom({
      ...sequence,
      loop: {
        ...loop,
        speed: 1,
        cut: { timescale: num, start: 0, end: facts.frames * den },
        seam: { kind: 'straight', overlapSeconds: 0 },
      },
    }),
  }
  return {
    recipe,
    facts,
    bytes: paddedClip(await readFile(join(demoFiles, found.file!)), paddingBytes, number),
  }
}
