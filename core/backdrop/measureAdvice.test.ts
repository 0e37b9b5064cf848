import { describe, expect, it } from 'vitest'
import { inventBackdrop, knownAs, reduced as reduce } from '../testing/samples'
import type { ProbeFacts } from '../weight/ProbeFacts'
import { measuredRecipe } from './advice'
import type { BackdropDocument } from './BackdropDocument'
import { savesEnough, measureAdvice, type MeasuredAdvice, type ProbeRunner } from './measureAdvice'
import { clipBudget, probeOf, type ProbeRecipe } from './recipe'

const DOCUMENT = inventBackdrop()
const SOURCE = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })

/**
 * An invented encoder by quantizer: bytes go by frames and pixels, less where grain was taken out.
 */
function probed(recipe: ProbeRecipe, settings: readonly number[]): ProbeFacts {
  const { frames } = recipe.sequence
  const pixels = recipe.width * recipe.height * (recipe.noiseReduction > 0 ? 0.9 : 1)
  const point = (setting: number) => ({
    setting,
    keyBytes: pixels / 10 / 2 ** (setting / 40),
    frameBytes: pixels / 100 / 2 ** (setting / 40),
    ssim: 1 - setting / 2000,
    psnr: 50 - setting / 20,
  })
  return {
    kind: 'probe',
    steering: 'quantizer',
    bounds: { finest: 15, coarsest: 255 },
    points: settings.map(point),
    anchorEvery: 10,
    parts: [1, 1, 1],
    frames,
    seconds: 1,
  }
}

/** Behind a scrim a setting looks better the less contrast is left. */
const run: ProbeRunner = (recipe, settings, contrasts) => {
  const facts = probed(recipe, settings ?? [61, 102, 148, 199, 255])
  return Promise.resolve({
    facts,
    compared: facts.points.map(({ ssim }) => [
      { behind: contrasts.map((contrast) => 1 - (1 - ssim) * contrast) },
    ]),
  })
}

async function measured(
  document: BackdropDocument,
  runner: ProbeRunner = run,
): Promise<MeasuredAdvice[]> {
  const base = probed(
    probeOf(measuredRecipe(document, SOURCE, 'laptop')!),
    [61, 102, 148, 199, 255],
  )
  const found: MeasuredAdvice[] = []
  let last = 0
  for await (const { done, advice } of measureAdvice({
    document,
    known: SOURCE,
    screenClass: 'laptop',
    analysis: null,
    base,
    run: runner,
  })) {
    expect(done).toBeGreaterThan(last)
    last = done
    if (advice) found.push(advice)
  }
  expect(last).toBe(1)
  return found
}

describe('advice', () => {
  it('is measured one by one, in shares and bytes of the clip as it would be now', async () => {
    const advice = await measured(DOCUMENT)
    const of = (id: string) => advice.find((each) => each.id === id)!
    expect(of('shorter').saves).toBeCloseTo(0.24, 1)
    expect(of('smaller').saves).toBeCloseTo(1 - 0.8 ** 2, 1)
    expect(of('noise-reduction').saves).toBeCloseTo(0.1, 2)
    // All shares are of the same clip.
    for (const { saves, savesBytes } of advice.filter((each) => each.saves > 0.01))
      expect(savesBytes / saves / (of('shorter').savesBytes / of('shorter').saves)).toBeCloseTo(
        1,
        2,
      )
  })
  it('asks the encoder for what the present file has', async () => {
    const asked: (readonly number[] | null)[] = []
    await measured(
      DOCUMENT,
      (recipe, settings, contrasts) => (asked.push(settings), run(recipe, settings, contrasts)),
    )
    const setting = asked[0]![0]!
    const small = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'laptop',
      row: { budgetBytes: 300_000 },
    })
    const smaller: (readonly number[] | null)[] = []
    await measured(
      small,
      (recipe, settings, contrasts) => (smaller.push(settings), run(recipe, settings, contrasts)),
    )
    expect(smaller[0]![0]!).toBeGreaterThan(setting)
    expect(asked.every((each) => each?.[0] === setting)).toBe(true)
  })
  it('of a stronger scrim lowers the budget by what it saves', async () => {
    const scrim = (await measured(DOCUMENT)).find(({ id }) => id === 'scrim')!
    expect(scrim.saves).toBeGreaterThan(0.05)
    expect(clipBudget(scrim.actions.reduce(reduce, DOCUMENT), 'laptop')).toBeLessThan(
      clipBudget(DOCUMENT, 'laptop'),
    )
  })
  it('is nothing for a screen without a clip of its own', async () => {
    const document = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'laptop',
      row: { enabled: false },
    })
    const steps = measureAdvice({
      document,
      known: SOURCE,
      screenClass: 'laptop',
      analysis: null,
      base: probed(probeOf(measuredRecipe(DOCUMENT, SOURCE, 'laptop')!), [100]),
      run,
    })
    expect((await steps.next()).done).toBe(true)
  })
  it.each([
    ['noise-reduction', 0.14, false],
    ['noise-reduction', 0.16, true],
    ['smaller', 0.01, false],
    ['smaller', 0.03, true],
  ] as const)('on %s that saves %d is offered: %s', (id, saves, offered) =>
    expect(savesEnough({ id, saves })).toBe(offered),
  )
})
