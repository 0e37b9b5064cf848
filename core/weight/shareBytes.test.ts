import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { shareBytes, type QualityOption, type SharedBudget } from './shareBytes'

const OPTIONS = fc.array(
  fc.record({
    bytes: fc.integer({ min: 1000, max: 90_000 }),
    ssim: fc.double({ min: 0.8, max: 1, noNaN: true }),
  }),
  { minLength: 1, maxLength: 8 },
)
const PICTURES = fc.array(OPTIONS, { minLength: 1, maxLength: 6 })
const worst = (chosen: readonly QualityOption[]): number =>
  Math.min(...chosen.map(({ ssim }) => ssim))
const sum = (chosen: readonly QualityOption[]): number =>
  chosen.reduce((all, { bytes }) => all + bytes, 0)

/** Every way to choose one option each. */
function allChoices(pictures: readonly (readonly QualityOption[])[]): QualityOption[][] {
  return pictures.reduce<QualityOption[][]>(
    (choices, options) => choices.flatMap((chosen) => options.map((each) => [...chosen, each])),
    [[]],
  )
}

const places = (pictures: readonly unknown[]): number[] => pictures.map((_, index) => index)

/** All pictures, and the first one with each other one: whichever of them comes second. */
const budgetsOf = (pictures: readonly unknown[], all: number, first: number): SharedBudget[] => [
  { pictures: places(pictures), bytes: all },
  ...places(pictures).map((index) => ({ pictures: [...new Set([0, index])], bytes: first })),
]
const isWithin = (chosen: readonly QualityOption[], budgets: readonly SharedBudget[]): boolean =>
  budgets.every(({ pictures, bytes }) => sum(pictures.map((index) => chosen[index]!)) <= bytes)

describe('bytes shared among pictures', () => {
  it('never exceed a budget (seed 31)', () =>
    fc.assert(
      fc.property(PICTURES, fc.nat(300_000), fc.nat(150_000), (pictures, all, first) => {
        const budgets = budgetsOf(pictures, all, first)
        const chosen = shareBytes(pictures, budgets)
        if (!chosen) return
        expect(isWithin(chosen, budgets)).toBe(true)
        for (const [index, option] of chosen.entries()) expect(pictures[index]).toContain(option)
      }),
      { seed: 31 },
    ))
  it('make the worst picture as good as any choice could (seed 32)', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.array(
            OPTIONS.map((each) => each[0]!),
            { minLength: 1, maxLength: 4 },
          ),
          {
            minLength: 1,
            maxLength: 4,
          },
        ),
        fc.nat(200_000),
        fc.nat(120_000),
        (pictures, all, first) => {
          const budgets = budgetsOf(pictures, all, first)
          const possible = allChoices(pictures).filter((each) => isWithin(each, budgets))
          const chosen = shareBytes(pictures, budgets)
          if (possible.length === 0) expect(chosen).toBeNull()
          else expect(worst(chosen!)).toBe(Math.max(...possible.map(worst)))
        },
      ),
      { seed: 32, numRuns: 300 },
    ))
  it('are never worse for the worst one than equal shares (seed 33)', () =>
    fc.assert(
      fc.property(PICTURES, fc.nat(400_000), (pictures, bytes) => {
        const share = bytes / pictures.length
        const equal = pictures.map((options) =>
          options
            .filter((each) => each.bytes <= share)
            .sort((a, b) => b.ssim - a.ssim)
            .at(0),
        )
        if (equal.some((each) => !each)) return
        const chosen = shareBytes(pictures, [{ pictures: places(pictures), bytes }])
        expect(worst(chosen!)).toBeGreaterThanOrEqual(worst(equal as QualityOption[]))
      }),
      { seed: 33 },
    ))
  it('go on to better pictures when the worst one has nothing more to take', () => {
    const chosen = shareBytes(
      [
        [{ bytes: 1000, ssim: 0.9 }],
        [
          { bytes: 1000, ssim: 0.95 },
          { bytes: 5000, ssim: 0.99 },
        ],
      ],
      [{ pictures: [0, 1], bytes: 9000 }],
    )
    expect(chosen!.map(({ ssim }) => ssim)).toEqual([0.9, 0.99])
  })
})
