import type { ShareRect } from '../picture/pictureShape'
import { regionHeightPx, type Size } from './cover'

/** The words that decide how much room copy takes. */
export interface CopyWords {
  readonly heading: string
  readonly body: string
  readonly button: { readonly label: string }
}

const REM = 16
/**
 * Mean widths of a letter of the heading's and the text's face, in ems: measured on the stage's
 * typeface.
 */
const HEADING_LETTER = 0.53
const TEXT_LETTER = 0.5
const HEADER_PX = 78

const clamp = (value: number, low: number, high: number): number =>
  Math.min(high, Math.max(low, value))

/**
 * Where heading, text and button are in a region, in shares of it: an estimate from the delivered
 * style (`core/handoff/emitStyle.ts`) and the number of letters, for windows that are not on
 * screen. `e2e/weight.test.ts` compares it with the real layout.
 */
export function copyBox(
  { heading, body, button }: CopyWords,
  height: Parameters<typeof regionHeightPx>[0],
  window: Size,
): ShareRect {
  const inset = clamp(window.width * 0.05, 1.25 * REM, 5 * REM)
  const room = Math.min(window.width, 52 * REM) - 2 * inset
  const face = clamp(window.width * 0.056, 2.2 * REM, 4.5 * REM)
  const headingLines = Math.max(1, Math.ceil((heading.length * face * HEADING_LETTER) / room))
  const bodyRoom = Math.min(room, 34 * REM)
  const bodyLines = Math.max(1, Math.ceil((body.length * 1.2 * REM * TEXT_LETTER) / bodyRoom))
  const headingHeight = headingLines * face * 1.05
  const block = headingHeight + REM + bodyLines * 1.8 * REM + 1.75 * REM + 3.1 * REM
  const regionHeight = Math.max(
    regionHeightPx(height, window.height),
    HEADER_PX + block + 6.5 * REM,
  )
  const top = HEADER_PX + (regionHeight - HEADER_PX - (block + 6.5 * REM)) / 2 + 2 * REM
  const widest = Math.max(
    (heading.length * face * HEADING_LETTER) / headingLines,
    Math.min(bodyRoom, body.length * 1.2 * REM * TEXT_LETTER),
    button.label.length * 1.05 * REM * HEADING_LETTER + 3 * REM,
  )
  return {
    x: inset / window.width,
    y: top / regionHeight,
    width: Math.min(room, widest) / window.width,
    height: block / regionHeight,
  }
}
