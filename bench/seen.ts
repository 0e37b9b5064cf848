import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import type { LegibilityLine } from '../core/api/legibilityLine'
import { footageManifest, launchWhole, telon } from '../e2e/harness'
import { barePage, SEEN_TEXTS, seenContrast } from '../e2e/seenContrast'

/*
 * What Telon says of copy in front of clips, against screenshots of the delivered pages: at every
 * named time, and at others spread over the loop. Clips of one's own may be named: camera footage
 * is not kept here.
 */

const SCREENS = ['phone', 'laptop', 'wide'] as const
/** Other times on each of three screens: about forty in all. */
const SAMPLES = 13
/** What is told. */
const TOLERANCE = 0.03

export async function compareWithScreens(files: readonly string[]): Promise<void> {
  const browser = await launchWhole()
  let failures = 0
  try {
    for (const file of files) {
      const folder = await mkdtemp(join(tmpdir(), 'seen-'))
      try {
        failures += await compare(browser, file, folder)
      } finally {
        await rm(folder, { recursive: true, force: true })
      }
    }
  } finally {
    await browser.close()
  }
  console.log(`${failures} figures are more than ${TOLERANCE * 100} % off`)
  process.exitCode = failures > 0 ? 1 : 0
}

async function compare(
  browser: Awaited<ReturnType<typeof launchWhole>>,
  file: string,
  folder: string,
): Promise<number> {
  const options = ['--formats', 'h264', '--heading', 'A night train to the north', '--out', folder]
  const delivered = await telon('deliver', file, ...options)
  const line = JSON.parse((await telon('legibility', folder)).out) as LegibilityLine
  if (delivered.code !== 0 || !line.texts) {
    console.log(`${basename(file)}: ${delivered.err.trim().split('\n').at(-1)}`)
    return 0
  }
  const manifest = await footageManifest(folder)
  const { seconds, frameRate } = manifest.base.loop
  const rate = frameRate.num / frameRate.den
  let failures = 0
  let worstOff = 0
  let worstBelow = 0
  for (const screen of SCREENS) {
    const page = await barePage(browser, folder, screen)
    for (const each of line.texts.filter(({ screen: own }) => own === screen)) {
      if (!SEEN_TEXTS[each.text]) continue
      const off = (await seenContrast(page, each.text, each.seconds)).ratio / each.ratio - 1
      worstOff = Math.max(worstOff, Math.abs(off))
      if (Math.abs(off) > TOLERANCE) failures += 1
    }
    const told = line.texts.find(({ screen: own, text }) => own === screen && text === 'heading')!
    for (let sample = 0; sample < SAMPLES; sample++) {
      const frame = Math.floor((sample * seconds * rate) / SAMPLES)
      const below = 1 - (await seenContrast(page, 'heading', frame / rate)).ratio / told.ratio
      worstBelow = Math.max(worstBelow, below)
      if (below > TOLERANCE) failures += 1
    }
    await page.close()
  }
  const percent = (share: number): string => `${(100 * share).toFixed(1)} %`
  console.log(
    `${basename(file)}: named times at most ${percent(worstOff)} off, other times at most ${percent(worstBelow)} worse than told`,
  )
  return failures
}
