import { expect, it } from 'vitest'
import { newParticles, shownDefinition } from './Particles'
import { prepare } from './prepare'
import { styleOf } from './styles'

const EMBERS = styleOf('ember-drift')!.definition
const over = (turnSeconds: number | null, follows: 'own' | 'whole' | 'half' | 'third') =>
  shownDefinition({ ...newParticles(EMBERS, null), follows }, turnSeconds)

it('the period of particles follows what is below in whole shares', () => {
  expect(over(9, 'whole').period).toBe(9)
  expect(over(9, 'half').period).toBe(4.5)
  expect(over(9, 'third').period).toBe(3)
  expect(over(9, 'own')).toBe(EMBERS)
  expect(over(null, 'whole')).toBe(EMBERS)
})
it('it is never so short that twinkling in whole rounds of it could flash', () => {
  const { motion } = EMBERS
  const quick = { ...EMBERS, motion: { ...motion, twinkle: { amount: 1, seconds: 0.5 } } }
  for (let turn = 0.2; turn < 12; turn += 0.13)
    for (const follows of ['whole', 'half', 'third'] as const) {
      const shown = shownDefinition({ ...newParticles(quick, null), follows }, turn)
      expect(shown.period).toBeGreaterThanOrEqual(2)
      // It still fits to what is below.
      const shares = (shown.period / turn) * { whole: 1, half: 2, third: 3 }[follows]
      expect(shares).toBeCloseTo(Math.round(shares), 6)
      const rounds = prepare(shown)[27]
      expect(rounds / shown.period).toBeLessThan(3)
    }
})
