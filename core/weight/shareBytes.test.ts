import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { shareBytes, type QualityOption } from './shareBytes'

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

describe('bytes shared among pictures', () => {
  it('never exceed a budget (seed 31)', () =>
    fc.assert(
      fc.property(PICTURES, fc.nat(300_000), fc.nat(150_000), (pictures, all, first) => {
        const budgets = [
          { count: pictures.length, bytes: all },
          { count: 2, bytes: first },
        ]
        const chosen = shareBytes(pictures, budgets)
        if (!chosen) return
        for (const { count, bytes } of budgets)
          expect(sum(chosen.slice(0, count))).toBeLessThanOrEqual(bytes)
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
          const possible = allChoices(pictures).filter(
            (chosen) => sum(chosen) <= all && sum(chosen.slice(0, 2)) <= first,
          )
          const chosen = shareBytes(pictures, [
            { count: pictures.length, bytes: all },
            { count: 2, bytes: first },
          ])
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
        const chosen = shareBytes(pictures, [{ count: pictures.length, bytes }])
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
      [{ count: 2, bytes: 9000 }],
    )
    expect(chosen!.map(({ ssim }) => ssim)).toEqual([0.9, 0.99])
  })
})
