import { measuredRecipe, type AdviceId } from '../core/backdrop/advice'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { savesEnough, measureAdvice, type MeasuredAdvice } from '../core/backdrop/measureAdvice'
import { probeOf } from '../core/backdrop/recipe'
import { SCREENS, type ScreenClass } from '../core/fit/screens'
import type { Sources } from '../core/kinds/Kind'
import type { InputFiles, RenderBrowser } from '../headless/RenderBrowser'

/**
 * The option of `deliver` that makes a change. Changes without an option are not suggested here.
 */
const OPTIONS: Partial<Record<AdviceId, string>> = {
  shorter: '--end',
  slower: '--speed and --end',
  'frame-rate': '--fps',
  smaller: '--width',
  'noise-reduction': '--noise-reduction',
  'copy-blur': '--copy-blur',
}

/**
 * Lists what would make the files of a class of screens lighter where a budget is too small for the
 * encoder, each change measured by short encodes, largest saving first. Errors: those of encoding.
 */
export async function proposeLighter(
  browser: RenderBrowser,
  file: InputFiles,
  document: BackdropDocument,
  known: Sources,
  screenClass: ScreenClass,
  say: (line: string) => void,
): Promise<void> {
  const recipe = measuredRecipe(document, known, screenClass)
  if (!recipe) return
  say(`measuring what would make the files for ${SCREENS[screenClass].label.toLowerCase()} lighter`)
  const base = await browser.probe(file, probeOf(recipe))
  const found: MeasuredAdvice[] = []
  const run = browser.probeAt.bind(browser, file)
  for await (const { advice } of measureAdvice({
    document,
    known,
    screenClass,
    analysis: null,
    base,
    run,
  }))
    if (advice && OPTIONS[advice.id] && savesEnough(advice)) found.push(advice)
  for (const { id, title, saves, savesBytes } of found.sort((a, b) => b.saves - a.saves))
    say(
      `  ${title} (${OPTIONS[id]}): saves ${Math.round(savesBytes / 1000)} kB, ${Math.round(saves * 100)} %`,
    )
  if (found.length === 0) say('  none of the tested changes saves more than a few bytes')
}
