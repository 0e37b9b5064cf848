import { mkdir, readFile, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { passes } from '../core/api/legibilityLine'
import type { Rendition } from '../core/api/wire'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { baseOnScreen } from '../core/backdrop/contrastBase'
import { firstVisits, type FirstVisit } from '../core/backdrop/firstVisit'
import { assembleHandoff, plainClip } from '../core/handoff/assembleHandoff'
import { shortId } from '../core/handoff/deliveredFiles'
import { manifestSchema } from '../core/handoff/manifest'
import { worstOfAll } from '../core/legibility/worstOf'
import { judgeSeam, SEAM_ADVICE } from '../core/loop/judgeSeam'
import type { RenderBrowser } from '../headless/RenderBrowser'
import { readDeliveredScripts } from '../node/deliveredScripts'
import { inProject } from '../node/projectRoot'
import type { DeliverOptions } from './DeliverOptions'
import type { Draft } from './draft'

/** A file that was made for the folder. */
export type MadeFile = Rendition & { readonly content: Buffer }

/** Writes the folder; media of an earlier delivery of the same backdrop go. */
export async function writeFolder(
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

/**
 * Says the worst contrast of all copy; whether all of it has what it needs, null where that is not
 * known: what a style places or moves is not measured.
 */
export async function sayContrast(
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
