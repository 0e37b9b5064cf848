import { FIRST_TYPE, LETTER_EM, type CopyParts } from './copyParts'
import { FIRST_PLACE, type CopyPlace } from './copyPlace'
import type { ShareRect } from '../picture/pictureShape'
import { regionHeightPx, type Size } from '../fit/cover'

/** The words that decide how much room copy takes; parts that are left out are not there. */
export interface CopyWords extends Partial<
  Pick<CopyParts, 'type' | 'rule' | 'more' | 'onward' | 'footer'>
> {
  readonly heading: string
  readonly body: string
  readonly button: { readonly label: string }
}

const REM = 16
/** Mean width of a letter of the heading, in ems: measured on the stage's typeface. */
const HEADING_LETTER = 0.53
const HEADER_PX = 78

/** How much of the spare room is above the copy, and before it. */
const SHARE_ABOVE = { top: 0, middle: 0.5, bottom: 1 } as const
const SHARE_BEFORE = { start: 0, center: 0.5, end: 1 } as const

const clamp = (value: number, low: number, high: number): number =>
  Math.min(high, Math.max(low, value))

/**
 * Where heading, text and button are in a region, in shares of it, of words that run from left to
 * right: an estimate from the delivered style (`core/handoff/emitStyle.ts`) and the number of
 * letters, for windows that are not on screen. `e2e/weight.test.ts` compares it with the layout.
 */
export function copyBox(
  { heading, body, button, type = FIRST_TYPE, rule, more = [], onward, footer }: CopyWords,
  height: Parameters<typeof regionHeightPx>[0],
  window: Size,
  { across, down }: Pick<CopyPlace, 'across' | 'down'> = FIRST_PLACE,
): ShareRect {
  const inset = clamp(window.width * 0.05, 1.25 * REM, 5 * REM)
  const room = Math.min(window.width, 52 * REM) - 2 * inset
  const face = clamp(
    window.width * 0.056 * type.headingSize,
    2.2 * REM * type.headingSize,
    4.5 * REM * type.headingSize,
  )
  const textFace = 1.2 * REM * type.bodySize
  const headingLines = Math.max(1, Math.ceil((heading.length * face * HEADING_LETTER) / room))
  const bodyRoom = Math.min(
    room,
    34 * REM * type.bodySize * (type.lineLetters / FIRST_TYPE.lineLetters),
  )
  const texts = [body, ...more].map((each) => each.length * textFace * LETTER_EM)
  const bodyLines = texts.reduce(
    (lines, width) => lines + Math.max(1, Math.ceil(width / bodyRoom)),
    0,
  )
  const headingHeight = headingLines * face * 1.05
  const block =
    headingHeight +
    REM +
    (rule ? 1.5 * REM : 0) +
    (bodyLines * 1.8 + texts.length * 1.75) * REM * type.bodySize +
    3.1 * REM
  const end = (onward ? 3.4 * REM : 0) + (footer ? 2 * REM : 0)
  const regionHeight = Math.max(
    regionHeightPx(height, window.height),
    HEADER_PX + block + end + 6.5 * REM,
  )
  const spare = regionHeight - HEADER_PX - (block + end + 6.5 * REM)
  const top = HEADER_PX + spare * SHARE_ABOVE[down] + 2 * REM
  const widest = Math.max(
    (heading.length * face * HEADING_LETTER) / headingLines,
    Math.min(bodyRoom, Math.max(...texts)),
    button.label.length * 1.05 * REM * HEADING_LETTER + 3 * REM,
  )
  const width = Math.min(room, widest)
  return {
    x: (inset + (window.width - 2 * inset - width) * SHARE_BEFORE[across]) / window.width,
    y: top / regionHeight,
    width: width / window.width,
    height: block / regionHeight,
  }
}
