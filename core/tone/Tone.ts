import { z } from 'zod'
import { colorSchema, share } from '../bounded'

const factor = (most: number) => z.number().min(0.2).max(most)

/** What is done to all colours of a base. */
export const toneSchema = z.object({
  /** Times of what it was: 1 leaves it. */
  brightness: factor(2),
  /** Around middle grey. */
  contrast: factor(2),
  /** 0 is grey, 1 leaves it. */
  saturation: z.number().min(0).max(2),
  /** A colour whose hue the picture takes, and how much of it. */
  tint: z.object({ color: colorSchema, strength: share() }),
})
export type Tone = z.infer<typeof toneSchema>

/** How the tone of a base is made: by the visitor's browser, or in the files. */
export const toneDecisionSchema = toneSchema.extend({ form: z.enum(['filter', 'files']) })
export type ToneDecision = z.infer<typeof toneDecisionSchema>

export const PLAIN_TONE: Tone = {
  brightness: 1,
  contrast: 1,
  saturation: 1,
  tint: { color: '#204060', strength: 0 },
}

/** The tone of a backdrop that nobody has decided about. */
export const FIRST_TONE: ToneDecision = { ...PLAIN_TONE, form: 'files' }

/** Whether a tone leaves every colour as it is. */
export const isPlainTone = ({ brightness, contrast, saturation, tint }: Tone): boolean =>
  brightness === 1 && contrast === 1 && saturation === 1 && tint.strength === 0

const short = (value: number): string => String(Math.round(value * 1e4) / 1e4)

/** A text that is the same exactly as long as the tone is. */
export const toneKey = ({ brightness, contrast, saturation, tint }: Tone): string =>
  `:tone${[brightness, contrast, saturation, tint.strength].map(short).join(',')}${tint.strength > 0 ? tint.color : ''}`
