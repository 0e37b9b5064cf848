import { describe, expect, it } from 'vitest'
import { createPaint, FIRST_MOTION, newGradient, type Paint } from '../kinds/paint/Paint'
import { paintCost, playedCostWords } from './playedCost'

const moving = (from: string, to: string): Paint => ({
  ...createPaint(),
  gradients: [newGradient(from, to)],
  motion: { ...FIRST_MOTION, amount: 1, seconds: 8 },
})

describe('what the motion of a paint costs', () => {
  it('is what was measured at the fewest and the most steps, and between them in between', () => {
    const hard = moving('#000000', '#ffffff')
    const edge = hard.gradients.map((each) => ({ ...each, shape: 'conic' as const }))
    expect(paintCost(moving('#202020', '#222222'))).toBe(0.76)
    expect(paintCost({ ...hard, gradients: edge })).toBeCloseTo(2.27)
    expect(paintCost(hard)).toBeGreaterThan(0.8)
    expect(paintCost(hard)).toBeLessThan(2.2)
  })
  it('is nothing where it stands still', () => {
    expect(paintCost({ ...moving('#000000', '#ffffff'), motion: null })).toBe(0)
    expect(playedCostWords(0.76)).toMatch(/^About 0\.8 times /)
  })
})
