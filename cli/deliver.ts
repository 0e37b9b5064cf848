import { createHash } from 'node:crypto'
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { ClipFacts, Rendition, RenditionFacts } from '../core/api/wire'
import { FIRST_DECISIONS, type BackdropDocument } from '../core/backdrop/BackdropDocument'
import { baseOnScreen } from '../core/backdrop/contrastBase'
import { passes } from '../core/api/legibilityLine'
import { firstVisits, type FirstVisit } from '../core/backdrop/firstVisit'
import {
  clipRecipes,
  posterRecipes,
  recipeKey,
  type ClipRecipe,
  type Recipe,
} from '../core/backdrop/recipe'
import type { ScreenClass } from '../core/fit/screens'
import { assembleHandoff, plainClip } from '../core/handoff/assembleHandoff'
import { shortId } from '../core/handoff/deliveredFiles'
import { manifestSchema } from '../core/handoff/manifest'
import { worstOfAll } from '../core/legibility/worstOf'
import { judgeSeam, SEAM_ADVICE } from '../core/loop/judgeSeam'
import { FAMILIES, type Family } from '../core/weight/families'
import { bestNames } from '../core/weight/native/bestNames'
import { DEBIAN_PACKAGES } from '../core/weight/native/encoders'
import { pictureEncoder } from '../encoders/encodePicture'
import { installedEncoders } from '../encoders/installed'
import { KeptFrames } from '../encoders/KeptFrames'
import { namesOf, renderFile, type Encoders } from '../encoders/renderFile'
import { RenderBrowser, type InputFiles } from '../headless/RenderBrowser'
import { readDeliveredScripts } from '../node/deliveredScripts'
import { inProject } from '../node/projectRoot'
import { type DeliverOptions } from './DeliverOptions'
import { draft, withParticles, type Draft } from './draft'
import { proposeLighter } from './proposeLighter'

/** Whoever ends the command line ends its work. */
const NEVER = new AbortController().signal

/** A file that was made for the folder. */
type MadeFile = Rendition & { readonly content: Buffer }

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

/**
 * Says the worst contrast of all copy; whether all of it has what it needs, null where that is not
 * known: what a style places or moves is not measured.
 */
async function sayContrast(
  browser: RenderBrowser,
  { file, known }: Draft,
  document: BackdropDocument,
  say: (line: string) => void,
): Promise<{ readonly readable: boolean | null }> {
  const unmeasured = (why: string) => {
    say(`contrast: not measured, because ${why}`)
    return { readable: null }
  }
  if (!baseOnScreen(document, known, 'phone'))
    return unmeasured('the style moves or places what is behind the copy')
  // The folder is written: whatever happens now, it is whole.
  const found = await browser.contrasts(file, document, known).catch((error: unknown) => ({
    problem: error instanceof Error ? error.message : String(error),
  }))
  if (!found || 'problem' in found) return unmeasured(`it failed: ${found?.problem ?? 'no frames'}`)
  const worst = worstOfAll(found.worst)
  if (!worst) return unmeasured('there is no copy')
  const readable = passes(found.worst)
  say(
    `contrast: ${worst.ratio.toFixed(2)} : 1, needs ${worst.text.needed} (${worst.text.label.toLowerCase()}, ${worst.screen}, ${worst.seconds.toFixed(2)} s)${readable ? '' : ': the copy cannot be read there'}`,
  )
  return { readable }
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

/** Writes the folder; media of an earlier delivery of the same backdrop go. */
async function writeFolder(
  { known, sha256, name }: Draft,
  document: BackdropDocument,
  made: ReadonlyMap<string, MadeFile>,
  options: DeliverOptions,
  say: (line: string) => void,
): Promise<void> {
  const id = options.id ?? shortId(sha256)
  const content = new Map([...made.values()].map((each) => [each.sha256, each.content]))
  const folder = await assembleHandoff({
    id,
    name,
    document,
    known,
    scripts: await readDeliveredScripts(inProject('dist')),
    plain: (digest) => plainClip(Uint8Array.from(content.get(digest)!)),
    // A try takes half a minute: the workbench has it on request.
    particleCost: null,
    find: async (keys) => keys.flatMap((key) => made.get(key) ?? []),
  })
  if (!folder.ok) throw new Error(`files are missing: ${folder.error.join(', ')}`)
  const former = await formerMedia(options.out, id)
  const write = async (path: string, data: string | Uint8Array): Promise<void> => {
    const target = join(options.out, path)
    await mkdir(dirname(target), { recursive: true })
    await writeFile(target, data)
  }
  for (const { path, text } of folder.value.texts) await write(path, text)
  for (const { path, sha256, content: rewritten } of folder.value.media)
    await write(path, rewritten ?? content.get(sha256)!)
  const present = new Set(folder.value.media.map(({ path }) => path))
  for (const path of former)
    if (!present.has(path)) await rm(join(options.out, path), { force: true })
  for (const visit of firstVisits(document, folder.value.delivered))
    say(describeVisit(visit, options.quality !== undefined))
  const seam = [...made.values()].flatMap(({ facts }) =>
    facts.kind === 'clip' && facts.seam ? [facts.seam] : [],
  )[0]
  if (seam && judgeSeam(seam).visibility === 'visible')
    say(`warning: the seam is ${judgeSeam(seam).words}. ${SEAM_ADVICE}`)
  say(`written to ${options.out}`)
}

/**
 * The media that an earlier delivery of this backdrop has left in the folder, by its manifest:
 * their names hold hashes, so new ones do not replace them. Nothing but such names is given.
 */
async function formerMedia(folder: string, id: string): Promise<string[]> {
  try {
    const manifest = manifestSchema.parse(
      JSON.parse(await readFile(join(folder, 'manifest.json'), 'utf8')),
    )
    const own = new RegExp(`^media/${id}-(clip|poster|image|slide\\d+)-[a-z0-9-]+\\.[a-z0-9]+$`)
    return manifest.id === id ? manifest.files.filter((path) => own.test(path)) : []
  } catch {
    // No folder of Telon's yet.
    return []
  }
}

/**
 * What a first visit takes on a class of screens, in words; compared with its budget unless the
 * goal is constant quality.
 */
function describeVisit(
  { screenClass, poster, clip, page, total, budgetBytes: budget, cycle }: FirstVisit,
  measureQuality: boolean,
): string {
  const kilobytes = (bytes: number): string => `${Math.round(bytes / 1000)} kB`
  const parts = [
    ...(poster > 0 ? [`${clip > 0 ? 'poster' : 'picture'} ${kilobytes(poster)}`] : []),
    ...(clip > 0 ? [`clip ${kilobytes(clip)}`] : []),
    `page ${kilobytes(page)}`,
  ]
  return `first visit, ${screenClass}: ${kilobytes(total)}${measureQuality ? '' : ` of ${kilobytes(budget)}${total > budget ? ', over' : ''}`} (${parts.join(', ')})${cycle ? `; whole cycle ${kilobytes(cycle.total)} of ${kilobytes(cycle.budgetBytes)}${cycle.total > cycle.budgetBytes ? ', over' : ''}` : ''}`
}

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
