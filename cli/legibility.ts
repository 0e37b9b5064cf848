import { statSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import { baseOnScreen } from '../core/backdrop/contrastBase'
import { knownSource, pictureOf } from '../core/api/knownSource'
import { legibilityLineOf, type LegibilityLine } from '../core/api/legibilityLine'
import type { ScreenName } from '../core/fit/screens'
import { nearestRate } from '../core/Fraction'
import { manifestSchema, type Manifest } from '../core/handoff/manifest'
import { createFootage } from '../core/kinds/footage/createFootage'
import { toned } from '../core/kinds/Sequence'
import { createImage } from '../core/kinds/image/Image'
import { contrastMoments } from '../core/legibility/contrastMoments'
import type { WorstMoment } from '../core/legibility/worstOf'
import { describeContainerError } from '../core/media/describeContainerError'
import { probe, sourceFps, type SourceFacts } from '../core/media/probe'
import { openFileSource } from '../headless/fileSource'
import { RenderBrowser } from '../headless/RenderBrowser'
import { draft, withParticles } from './draft'
import type { DeliverOptions } from './DeliverOptions'
import { fileProblem } from './probe'

/** Stands for a digest where files are only looked at. */
const DIGEST = '0'.repeat(64)
const SOURCE_ID = 'file'

/** What is measured, and on which screens. */
export type LegibilityOptions = DeliverOptions & { readonly screens: readonly ScreenName[] }

/**
 * The contrast of copy of each file or delivered folder, as one line of JSON each. A file is
 * measured with the options of `deliver`, a folder as its page shows it.
 */
export async function legibility(
  paths: readonly { readonly shown: string; readonly path: string }[],
  options: LegibilityOptions,
  say: (line: string) => void,
  print: (line: LegibilityLine) => void,
): Promise<boolean> {
  const browser = await RenderBrowser.start()
  let passed = true
  try {
    for (const { shown, path } of paths) {
      const line = { ...(await lineOf(browser, path, options, say)), file: shown }
      passed &&= line.passes !== false
      print(line)
    }
  } finally {
    await browser.stop()
  }
  return passed
}

async function lineOf(
  browser: RenderBrowser,
  path: string,
  options: LegibilityOptions,
  say: (line: string) => void,
): Promise<LegibilityLine> {
  try {
    return statSync(path).isDirectory()
      ? await folderLine(browser, path, options.screens)
      : await fileLine(browser, path, options, say)
  } catch (error) {
    const told = fileProblem(error) ?? {
      code: 'legibility/not-measured',
      message: error instanceof Error ? error.message : String(error),
    }
    return { file: path, error: told }
  }
}

/** Copy in front of a clip or an image. */
async function fileLine(
  browser: RenderBrowser,
  path: string,
  options: LegibilityOptions,
  say: (line: string) => void,
): Promise<LegibilityLine> {
  const drafted = withParticles(await draft([path], options), options)
  const document = await drafted.settle(browser, say)
  const found = await browser.contrasts(drafted.file, document, drafted.known)
  if (!found) throw new Error('Its style moves it: only what stands still or loops is measured.')
  const worst = found.worst.filter(({ screen }) => options.screens.includes(screen))
  return legibilityLineOf(path, worst)
}

/**
 * Copy of a delivered page: in front of every frame of its clip, or of its picture, where that is
 * all it shows; otherwise in pictures of the page itself.
 */
async function folderLine(
  browser: RenderBrowser,
  folder: string,
  screens: readonly ScreenName[],
): Promise<LegibilityLine> {
  const manifest = await manifestOf(folder)
  const { baseUrl, particles } = manifest
  const address = `${await browser.lendFolder(folder, baseUrl)}/index.html`
  const live = particles?.form === 'live' ? particles : null
  const drawn = live && { period: live.periodSeconds, frameRate: live.framesPerSecond }
  const worst: WorstMoment[] = []
  for (const screen of screens) {
    const shown = await browser.shownPage(address, screen)
    if (!shown.media) {
      worst.push(...(await browser.heldMoments(address, screen, drawn?.period ?? null)))
      continue
    }
    // Media lie in one folder, wherever the page looks for it.
    const name = decodeURIComponent(new URL(shown.media).pathname.split('/').at(-1)!)
    const file = join(resolve(folder), 'media', name)
    const { sequence: plain, picture } = await baseOf(file, screen)
    const { focal, scrim, layout, tone } = shown
    const sequence = toned(plain, tone)
    const measured = await browser.measure({
      bases: [
        {
          key: `${file} ${statSync(file).mtimeMs} ${sequence.keys.picture}`,
          sequence,
          copyBlur: null,
          picture: picture ?? layout.region,
          places: { [DIGEST]: { url: browser.lend(file), bytes: statSync(file).size } },
        },
      ],
      screens: [{ name: screen, base: 0, layout, focal, scrim, isStill: false }],
      moments: contrastMoments(sequence, drawn),
      particles: shown.particles && {
        key: JSON.stringify([folder, manifest]),
        prepared: shown.particles,
      },
    })
    worst.push(...measured.worst)
  }
  return legibilityLineOf(folder, worst)
}

/** What a folder says of itself. */
async function manifestOf(folder: string): Promise<Manifest> {
  const text = await readFile(join(folder, 'manifest.json'), 'utf8').catch(() => null)
  const parsed = text === null ? null : manifestSchema.safeParse(parseJson(text))
  if (!parsed?.success)
    throw new Error('There is no manifest.json of Telon in this folder. Name a delivered folder.')
  return parsed.data
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return null
  }
}

/** All frames of a delivered file, as they are. */
async function baseOf(file: string, screen: ScreenName) {
  const source = await openFileSource(file)
  const read = await probe(source).finally(() => source.close())
  if (!read.ok) throw new Error(`${file}: ${describeContainerError(read.error)}`)
  const facts: SourceFacts = read.value
  const picture = pictureOf(facts)
  const place = { scope: 'region', height: { unit: 'svh', value: 100 }, brand: '' } as const
  const known = new Map([[SOURCE_ID, knownSource({ sha256: DIGEST, facts })]])
  const base = facts.kind === 'clip' ? wholeClip(facts) : createImage(SOURCE_ID)
  const shown = baseOnScreen(createBackdrop({ base, picture, ...place }), known, screen)
  if (!shown) throw new Error(`${file}: its frames cannot be read.`)
  return shown
}

function wholeClip(facts: Extract<SourceFacts, { kind: 'clip' }>) {
  const { timescale, durationTicks } = facts.video
  const made = createFootage({ sourceId: SOURCE_ID, facts })
  return {
    ...made,
    timing: {
      ...made.timing,
      cut: { timescale, start: 0, end: durationTicks },
      frameRate: nearestRate(Math.min(60, sourceFps(facts.video))),
    },
  }
}
