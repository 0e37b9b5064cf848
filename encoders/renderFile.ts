import type { RenditionFacts } from '../core/api/wire'
import { probeOf, type ProbeRecipe, type Recipe } from '../core/backdrop/recipe'
import type { ProbeFacts } from '../core/weight/ProbeFacts'
import type { InputFiles, RenderBrowser } from '../headless/RenderBrowser'
import { encodeClip, probeClip, type EncodeStep } from './encodeClip'
import type { PictureEncoder } from './encodePicture'
import type { InstalledEncoder } from './installed'
import type { KeptFrames } from './KeptFrames'
import { EncoderFailure } from './runEncoder'

/** The encoders of this machine. */
export interface Encoders {
  readonly programs: readonly InstalledEncoder[]
  readonly pictures: PictureEncoder | null
}

/** What they are called in recipes. */
export const namesOf = ({ programs, pictures }: Encoders): string[] => [
  ...programs.map(({ name }) => name),
  ...(pictures ? [pictures.name] : []),
]

export interface RenderOptions {
  readonly signal: AbortSignal
  readonly onStep: EncodeStep
  /** An earlier probe by the same encoder. */
  readonly probe: ProbeFacts | null
  readonly frames: KeptFrames
}

/** A file, and the probe that it was steered by; null where it needed none. */
export interface RenderedFile {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly facts: RenditionFacts
  readonly probe: ProbeFacts | null
}

/**
 * Renders a file with the encoder that its recipe names: a program of this machine, or the
 * browser's. Errors: EncoderFailure, also where the encoder is not here; those of decoding; the
 * signal's reason, which for the browser's encoders comes after the file.
 */
export async function renderFile(
  browser: RenderBrowser,
  encoders: Encoders,
  files: InputFiles,
  recipe: Recipe | ProbeRecipe,
  options: RenderOptions,
): Promise<RenderedFile> {
  options.signal.throwIfAborted()
  if (recipe.kind === 'poster' || recipe.encoder === null) {
    browser.pictures = pictureEncoderFor(recipe, encoders)
    return byBrowser(browser, files, recipe, options)
  }
  const program = encoders.programs.find(({ name }) => name === recipe.encoder)
  if (!program) throw missing(recipe.encoder)
  if (recipe.kind === 'probe') {
    const probe = await probeClip(browser, program, files, recipe, options)
    return { ...inText(probe), probe }
  }
  return encodeClip(browser, program, files, recipe, options)
}

function pictureEncoderFor({ encoder }: Recipe | ProbeRecipe, { pictures }: Encoders) {
  if (encoder === null) return null
  if (pictures?.name !== encoder) throw missing(encoder)
  return pictures.encode
}

const missing = (encoder: string): EncoderFailure =>
  new EncoderFailure(
    `${encoder} is not installed here, or in another version. Choose the encoder again under Weight.`,
  )

async function byBrowser(
  browser: RenderBrowser,
  files: InputFiles,
  recipe: Recipe | ProbeRecipe,
  { signal, onStep, probe: known }: RenderOptions,
): Promise<RenderedFile> {
  const probed = (which: ProbeRecipe): Promise<ProbeFacts> =>
    browser.probe(files, which, (done) => onStep('probe', done, 0))
  if (recipe.kind === 'probe') {
    const probe = await probed(recipe)
    return { ...inText(probe), probe }
  }
  const probe = recipe.kind === 'clip' ? (known ?? (await probed(probeOf(recipe)))) : null
  const { bytes, facts } = await browser.render(
    files,
    recipe,
    (done, pass) => onStep('pass', done, pass),
    probe,
  )
  signal.throwIfAborted()
  return { bytes: Uint8Array.from(bytes), facts, probe }
}

/** A probe as a file. */
const inText = (facts: ProbeFacts): Pick<RenderedFile, 'bytes' | 'facts'> => ({
  bytes: new TextEncoder().encode(JSON.stringify(facts)),
  facts,
})
