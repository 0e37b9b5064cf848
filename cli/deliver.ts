import { createHash } from 'node:crypto'
import type { ClipFacts, RenditionFacts } from '../core/api/wire'
import { FIRST_DECISIONS, type BackdropDocument } from '../core/backdrop/BackdropDocument'
import {
  clipRecipes,
  posterRecipes,
  recipeKey,
  type ClipRecipe,
  type Recipe,
} from '../core/backdrop/recipe'
import type { ScreenClass } from '../core/fit/screens'
import { judgeSeam } from '../core/loop/judgeSeam'
import { FAMILIES, type Family } from '../core/weight/families'
import { bestNames } from '../core/weight/native/bestNames'
import { DEBIAN_PACKAGES } from '../core/weight/native/encoders'
import { pictureEncoder } from '../encoders/encodePicture'
import { installedEncoders } from '../encoders/installed'
import { KeptFrames } from '../encoders/KeptFrames'
import { namesOf, renderFile, type Encoders } from '../encoders/renderFile'
import { RenderBrowser, type InputFiles } from '../headless/RenderBrowser'
import { type DeliverOptions } from './DeliverOptions'
import { draft, withParticles, type Draft } from './draft'
import { proposeLighter } from './proposeLighter'
import { sayContrast, writeFolder, type MadeFile } from './writeFolder'

/** Whoever ends the command line ends its work. */
const NEVER = new AbortController().signal

/**
 * Writes the handoff folder of a clip, an image, a slideshow of several images, or (without a file)
 * a paint; gives whether its copy can be read throughout. Throws UsageError for options that do not
 * fit it, Error where the file cannot be used.
 */
export async function deliver(
  files: readonly string[],
  options: DeliverOptions,
  say: (line: string) => void,
): Promise<{ readonly readable: boolean | null }> {
  const drafted = withParticles(await draft(files, options), options)
  const browser = await RenderBrowser.start()
  try {
    const { document, made } = drafted.file
      ? await renderFiles(
          browser,
          { ...drafted, file: drafted.file },
          await encodersFor(options),
          say,
        )
      : { document: drafted.document, made: new Map<string, MadeFile>() }
    await writeFolder(drafted, document, made, options, say)
    return await sayContrast(browser, drafted, document, say)
  } finally {
    await browser.stop()
  }
}

/** Renders every file of a draft. */
async function renderFiles(
  browser: RenderBrowser,
  { known, file, settle }: Draft & { readonly file: InputFiles },
  encoders: ChosenEncoders,
  say: (line: string) => void,
): Promise<{ document: BackdropDocument; made: Map<string, MadeFile> }> {
  const made = new Map<string, MadeFile>()
  const settled = await settle(browser, say)
  const document = { ...settled, weight: { ...settled.weight, encoders: encoders.chosen } }
  const clips = clipRecipes(document, known)
  const wanted: { screenClass: ScreenClass; slide?: number; recipe: Recipe }[] = [
    ...clips,
    ...posterRecipes(document, known),
  ]
  if (encoders.isBest) sayMissing(clips, say)
  const over = new Set<ScreenClass>()
  const frames = new KeptFrames()
  try {
    for (const [index, { screenClass, slide, recipe }] of wanted.entries()) {
      const name =
        recipe.kind === 'poster' ? `${pictureName(recipe, slide)} ${recipe.format}` : recipe.family
      const label = `${index + 1}/${wanted.length} ${name} ${recipe.width}×${recipe.height}`
      const key = recipeKey(recipe)
      // Classes of screens may share a file.
      const each =
        made.get(key) ?? (await makeFile(browser, file, recipe, encoders, frames, label, say))
      made.set(key, each)
      const { bytes } = each
      if (recipe.kind === 'clip' && recipe.goal?.kind === 'budget' && bytes > recipe.goal.bytes) {
        say(
          `${label}: over its ${recipe.goal.bytes} bytes: ${NAMES[recipe.family]} cannot encode this clip any smaller. Leave the format out, or change one of these:`,
        )
        over.add(screenClass)
      }
    }
  } finally {
    await frames.clear()
  }
  for (const screenClass of over)
    await proposeLighter(browser, file, settled, known, screenClass, say)
  return { document, made }
}

/** Renders one file, and says how far it is and what it measured. */
async function makeFile(
  browser: RenderBrowser,
  file: InputFiles,
  recipe: Recipe,
  encoders: Encoders,
  frames: KeptFrames,
  label: string,
  say: (line: string) => void,
): Promise<MadeFile> {
  let told = ''
  const rendered = await renderFile(browser, encoders, file, recipe, {
    signal: NEVER,
    onStep(step, done, pass) {
      const what = step === 'pass' ? `pass ${pass + 1}` : step
      const line = `${label}: ${what}, ${Math.floor(done * 10) * 10} %`
      if (line !== told) say(line)
      told = line
    },
    probe: null,
    frames,
  })
  const { facts } = rendered
  const content = Buffer.from(rendered.bytes)
  const sha256 = createHash('sha256').update(content).digest('hex')
  say(`${label}: ${content.byteLength} bytes${figuresOf(facts)}`)
  return { key: recipeKey(recipe), sha256, bytes: content.byteLength, facts, content }
}

/** The encoders of this machine, and which of them a delivery takes. */
interface ChosenEncoders extends Encoders {
  readonly chosen: BackdropDocument['weight']['encoders']
  /** Whether the best were asked for. */
  readonly isBest: boolean
}

/** What files are encoded with. */
async function encodersFor({ encoders }: DeliverOptions): Promise<ChosenEncoders> {
  if (encoders === 'browser')
    return {
      programs: [],
      pictures: null,
      chosen: FIRST_DECISIONS.weight.encoders,
      isBest: false,
    }
  const [programs, pictures] = await Promise.all([installedEncoders(), pictureEncoder()])
  return { programs, pictures, chosen: bestNames(namesOf({ programs, pictures })), isBest: true }
}

/** Says which encoder programs would make these clips smaller. */
function sayMissing(
  clips: readonly { readonly recipe: ClipRecipe }[],
  say: (line: string) => void,
) {
  const missing = FAMILIES.filter((family) =>
    clips.some(({ recipe }) => recipe.family === family && recipe.encoder === null),
  )
  if (missing.length === 0) return
  const names = missing.map((family) => NAMES[family]).join(', ')
  const packages = missing.map((family) => DEBIAN_PACKAGES[family]).join(', ')
  say(
    `${names}: encoded by the browser. Files are about a third smaller with ${packages} installed.`,
  )
}

const pictureName = ({ sequence }: Recipe, slide: number | undefined): string =>
  slide !== undefined ? `slide ${slide + 1}` : sequence.kind === 'image' ? 'image' : 'poster'

/** What a finished file measured, in words. */
function figuresOf(facts: RenditionFacts): string {
  if (facts.kind === 'poster')
    return `, SSIM ${facts.ssim.toFixed(3)}, swap ΔE ${facts.swapDeltaE.toFixed(2)}`
  if (facts.kind !== 'clip') return ''
  const { quality } = facts
  return `${quality ? `, SSIM ${quality.ssim.toFixed(3)} (worst ${quality.worstSsim.toFixed(3)}), ${quality.psnr.toFixed(1)} dB, ${facts.encodeSeconds.toFixed(1)} s` : ''}${seamWords(facts)}`
}

function seamWords(facts: ClipFacts): string {
  const { seam, deliveredSeam } = facts
  if (!seam) return ''
  if (seam.ratio === null) return ', hardly moves'
  const decoded = deliveredSeam ?? seam
  return `, seam ${seam.ratio.toFixed(2)}, decoded ${decoded.ratio?.toFixed(2) ?? '–'} (${judgeSeam(decoded).visibility})`
}

const NAMES: Record<Family, string> = { av1: 'AV1', vp9: 'VP9', h264: 'H.264' }
