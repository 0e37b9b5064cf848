import { surroundings, type TextPlace } from '../../core/legibility/TextPlace'
import { neededContrast, type Box } from '../../core/scrim/frameContrast'

/** Texts of a page, with what they are called. */
const TEXTS = [
  ['Brand', '.tln-brand'],
  ['Links', '.tln-link'],
  ['Heading', '.tln-heading'],
  ['Text', '.tln-body'],
] as const
/** Of controls that can be told from what is around them (WCAG 2.2, 1.4.11). */
const NEEDED_BY_CONTROLS = 3

/** The box of an element's words, not of the line that they stand in. */
export function textBox(element: HTMLElement): DOMRect {
  const range = element.ownerDocument.createRange()
  range.selectNodeContents(element)
  return range.getBoundingClientRect()
}

/** `rgb(1, 2, 3)` as `#010203`. */
export function hexOf(computed: string): string {
  const [red = 0, green = 0, blue = 0] = (computed.match(/[\d.]+/g) ?? []).map(Number)
  return `#${[red, green, blue].map((each) => Math.round(each).toString(16).padStart(2, '0')).join('')}`
}

/**
 * Every text and the button of a page as they are laid out, in CSS pixels of the region. A label on
 * its button has the button behind it, whatever moves below.
 */
export function textPlaces(page: Document, region: HTMLElement): TextPlace[] {
  const view = page.defaultView!
  const { left, top } = region.getBoundingClientRect()
  const within = ({ x, y, width, height }: DOMRect): Box => ({
    x: x - left,
    y: y - top,
    width,
    height,
  })
  const all = (selector: string): HTMLElement[] => [
    ...page.querySelectorAll<HTMLElement>(`.tln-region ${selector}`),
  ]
  const texts = TEXTS.flatMap(([label, selector]): TextPlace[] => {
    const elements = all(selector).filter(
      (each) => each.textContent?.trim() && textBox(each).width > 0,
    )
    const [first] = elements
    if (!first) return []
    const { color, fontSize, fontWeight } = view.getComputedStyle(first)
    return [
      {
        label,
        boxes: elements.map((each) => within(textBox(each))),
        color: hexOf(color),
        needed: neededContrast(parseFloat(fontSize), Number(fontWeight)),
      },
    ]
  })
  const buttons = all('.tln-button')
    .filter((each) => each.textContent?.trim())
    .map((each) => ({
      label: 'Button',
      boxes: surroundings(within(each.getBoundingClientRect())),
      color: hexOf(view.getComputedStyle(each).backgroundColor),
      needed: NEEDED_BY_CONTROLS,
    }))
  return [...texts, ...buttons]
}
