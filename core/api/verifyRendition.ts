import { containerOf, type ClipRecipe, type PosterRecipe } from '../backdrop/recipe'
import type { ByteSource } from '../bytes/ByteSource'
import { ContainerError } from '../bytes/ContainerError'
import { decodeTrace } from '../loop/FrameTrace'
import { mimeOf } from '../media/image/mimeOf'
import { probe, type SourceFacts } from '../media/probe'
import { fail, ok, type Result } from '../result'
import { probeFactsSchema } from '../weight/ProbeFacts'
import type { AnyRecipe } from './recipes'
import type { ClipFacts, PosterFacts, RenditionFacts } from './renditions'

/**
 * How a file differs from its recipe or its facts: the property, what it should be and what it is.
 */
export interface Mismatch {
  readonly property: string
  readonly expected: string
  readonly found: string
}

/**
 * Whether a finished file is what its recipe says, according to its bytes: container, codec, size
 * in pixels and number of frames, read by the readers used for foreign files. What only decoding
 * can show (quality, loop point) is not checked.
 */
export async function verifyRendition(
  source: ByteSource,
  recipe: AnyRecipe,
  facts: RenditionFacts,
): Promise<Result<null, Mismatch>> {
  const found = await mismatches(source, recipe, facts)
  const first = found.find(({ expected, found: actual }) => expected !== actual)
  return first ? fail(first) : ok(null)
}

const compare = (property: string, expected: unknown, found: unknown): Mismatch => ({
  property,
  expected: String(expected),
  found: String(found),
})

async function mismatches(
  source: ByteSource,
  recipe: AnyRecipe,
  facts: RenditionFacts,
): Promise<Mismatch[]> {
  const kind = recipe.kind === 'proof' ? 'clip' : recipe.kind
  if (facts.kind !== kind) return [compare('kind', kind, facts.kind)]
  switch (facts.kind) {
    case 'trace':
      return [compare('moments', facts.moments, await momentsOf(source))]
    case 'probe':
      return [
        compare(
          'content',
          JSON.stringify(probeFactsSchema.parse(facts)),
          await probeTextOf(source),
        ),
      ]
    case 'clip':
      return clipMismatches(await factsOf(source), recipe as ClipRecipe, facts)
    case 'poster':
      return [
        ...posterMismatches(await factsOf(source), recipe as PosterRecipe, facts),
        ...(facts.type === 'image/svg+xml' ? [await drawingMismatch(source)] : []),
      ]
  }
}

function clipMismatches(
  read: SourceFacts | string,
  recipe: ClipRecipe,
  facts: ClipFacts,
): Mismatch[] {
  if (typeof read === 'string' || read.kind !== 'clip') {
    return [compare('kind', 'clip', typeof read === 'string' ? read : read.kind)]
  }
  const container = containerOf(recipe)
  const { video } = read
  const { frames } = recipe.sequence
  return [
    compare('container', container, read.container),
    compare('type', `video/${container}`, facts.type),
    compare('codec family', recipe.family, video.family),
    compare('codec', codecOf(facts.codec), codecOf(video.codec)),
    compare('width', recipe.width, video.displayWidth),
    compare('height', recipe.height, video.displayHeight),
    compare('width of the facts', recipe.width, facts.width),
    compare('height of the facts', recipe.height, facts.height),
    compare('encoder', recipe.encoder, facts.encoder),
    compare('frames of the facts', frames, facts.frames),
    // The index of a loop lists its frames several times; a loop of one frame cannot be
    // distinguished from a longer one.
    compare('frames', frames * facts.repeats, video.frameCount * video.repeats),
    compare('sound', false, read.audio),
  ]
}

/**
 * What a codec string says of the bitstream. The level of VP9 is no part of it: writers compute it
 * from size and rate.
 */
function codecOf(codec: string): string {
  return codec.startsWith('vp09') ? codec.split('.').slice(0, 2).join('.') : codec
}

function posterMismatches(
  read: SourceFacts | string,
  recipe: PosterRecipe,
  facts: PosterFacts,
): Mismatch[] {
  if (typeof read === 'string' || read.kind !== 'image') {
    return [compare('kind', 'image', typeof read === 'string' ? read : read.kind)]
  }
  return [
    compare('format', recipe.format, read.format),
    compare('type', mimeOf(recipe.format), facts.type),
    compare('width', recipe.width, read.displayWidth),
    compare('height', recipe.height, read.displayHeight),
    compare('width of the facts', recipe.width, facts.width),
    compare('height of the facts', recipe.height, facts.height),
    compare('encoder', recipe.encoder, facts.encoder),
  ]
}

/**
 * What a cleaned drawing has none of: what runs, and what refers to other files. Attributes are
 * looked for within tags, since words of a drawing may read like them.
 */
const UNCLEAN = [
  /<(script|foreignObject|iframe|a)\b/i,
  /<[^<>]*(\son[a-z]+\s*=|javascript:)/i,
  /<!(DOCTYPE|ENTITY)|<\?(?!xml )/i,
  /<[^<>]*[\s:](href|src)\s*=\s*["'](?!\s*(#|data:image\/(png|jpeg|gif|webp);))/i,
  /@import/i,
  /url\(\s*['"]?(?!\s*['"]?(#|data:image\/(png|jpeg|gif|webp);))/i,
]
/** A drawing that is light enough to be delivered is far smaller, cleaned or not. */
const MAX_DRAWING_BYTES = 1024 * 1024

async function drawingMismatch(source: ByteSource): Promise<Mismatch> {
  const clean = 'a cleaned drawing'
  if (source.size > MAX_DRAWING_BYTES) return compare('content', clean, 'too long')
  // Quotes within attributes are written as references.
  const text = new TextDecoder()
    .decode(await source.read(0, source.size))
    .replace(/&(quot|apos|#34|#39);/g, "'")
  const found = UNCLEAN.map((each) => each.exec(text)?.[0]).find((each) => each !== undefined)
  return compare('content', clean, found ?? clean)
}

/** The facts of a file, or the code of why it cannot be read. */
async function factsOf(source: ByteSource): Promise<SourceFacts | string> {
  const read = await probe(source)
  return read.ok ? read.value : read.error.code
}

/** Traces and probes are small: a larger file is not one. */
const MAX_TEXT_BYTES = 64 * 1024

/** The content of a probe's file: its facts, and nothing else. */
async function probeTextOf(source: ByteSource): Promise<string> {
  if (source.size > MAX_TEXT_BYTES) return 'too long'
  const parsed = probeFactsSchema.safeParse(
    parseJson(new TextDecoder().decode(await source.read(0, source.size))),
  )
  return parsed.success ? JSON.stringify(parsed.data) : 'no probe'
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return null
  }
}

async function momentsOf(source: ByteSource): Promise<number | string> {
  try {
    return decodeTrace(await source.read(0, source.size)).seconds.length
  } catch (error) {
    if (error instanceof ContainerError) return error.code
    throw error
  }
}
