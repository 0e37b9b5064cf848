import type { Span } from '../../core/kinds/Span'
import { ofSlides, surroundings, type TextPlace } from '../../core/legibility/TextPlace'
import { formatHex } from '../../core/picture/srgb'
import { neededContrast, type Box } from '../../core/scrim/frameContrast'
import { layerOf } from './layerOf'
import { aroundLetters } from './letterHalo'

/** Texts around the words, with what they are called. */
const BEFORE = [
  ['Brand', '.tln-brand'],
  ['Links', '.tln-link'],
] as const
const AFTER = [
  ['Link onward', '.tln-onward'],
  ['Footer', '.tln-footer'],
] as const
/** Words, of which slides may have their own. */
const WORDS = [
  ['Heading', '.tln-heading'],
  ['Text', '.tln-body'],
  ['Second button', '.tln-second'],
] as const
/** Controls whose signs stand on a plate of their own. */
const CONTROLS = [
  ['Slide controls', '.tln-go'],
  ['Pause control', '.tln-pause'],
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
const hexOf = (computed: string): string => formatHex(layerOf(computed))

/** Words that are shown together. */
interface WordBox {
  readonly box: ParentNode
  readonly name: (label: string) => string
  readonly during: readonly Span[] | undefined
}

/** The boxes of words in turn, or the one of words that stay. */
function wordBoxes(page: Document, region: ParentNode, timesOf: TimesOf): WordBox[] {
  const turns = [...page.querySelectorAll<HTMLElement>('.tln-region .tln-text')]
  if (turns.length === 0) return [{ box: region, name: (label) => label, during: undefined }]
  return turns.map((box) => {
    const slides = (box.dataset['tlnSlides'] ?? '').split(' ').map(Number)
    return { box, name: (label) => ofSlides(label, slides), during: timesOf(slides) }
  })
}

/** When words of some slides are seen; undefined for always. */
type TimesOf = (slides: readonly number[]) => readonly Span[] | undefined

/** Everything that is read in a region as it is laid out, in CSS pixels. */
export function textPlaces(
  page: Document,
  region: HTMLElement,
  timesOf: TimesOf = () => undefined,
): TextPlace[] {
  const view = page.defaultView!
  const { left, top } = region.getBoundingClientRect()
  const within = ({ x, y, width, height }: DOMRect): Box => ({
    x: x - left,
    y: y - top,
    width,
    height,
  })
  const seen = (selector: string, box: ParentNode = page): HTMLElement[] =>
    [...box.querySelectorAll<HTMLElement>(`.tln-region ${selector}`)].filter(
      (each) => each.getBoundingClientRect().width > 0,
    )
  const written = (selector: string, box?: ParentNode): HTMLElement[] =>
    seen(selector, box).filter((each) => each.textContent?.trim() && textBox(each).width > 0)
  /** Elements that look the same count as one text, at all their places. */
  const placeOf = (
    label: string,
    elements: readonly HTMLElement[],
    look: (
      style: CSSStyleDeclaration,
      element: HTMLElement,
    ) => Pick<TextPlace, 'color' | 'needed' | 'plate' | 'covered'>,
    boxesOf: (element: HTMLElement) => Box[],
  ): TextPlace[] =>
    elements.length === 0
      ? []
      : [
          {
            label,
            boxes: elements.flatMap(boxesOf),
            ...look(view.getComputedStyle(elements[0]!), elements[0]!),
          },
        ]
  const textLook = ({ color, fontSize, fontWeight }: CSSStyleDeclaration) => ({
    color: hexOf(color),
    needed: neededContrast(parseFloat(fontSize), Number(fontWeight)),
    plate: null,
  })
  /** With what letters have around them: a plate, or their shadows. */
  const wordsLook = (style: CSSStyleDeclaration, element: HTMLElement) => {
    const around = aroundLetters(style, element)
    return { ...textLook(style), ...(around && { plate: around.plate, covered: around.covered }) }
  }
  const words = (element: HTMLElement): Box[] => [within(textBox(element))]
  const whole = (element: HTMLElement): Box[] => [within(element.getBoundingClientRect())]
  const texts = (named: readonly (readonly [string, string])[], box?: ParentNode) =>
    named.flatMap(([label, selector]) => placeOf(label, written(selector, box), wordsLook, words))
  const wordsIn = ({ box, name, during }: WordBox): TextPlace[] => {
    const buttons = written('.tln-button:not(.tln-second)', box)
    return [
      ...texts(WORDS, box),
      ...placeOf(
        'Button label',
        buttons,
        (style) => ({ ...textLook(style), plate: { layer: layerOf(style.backgroundColor) } }),
        words,
      ),
      ...placeOf(
        'Button',
        buttons,
        ({ backgroundColor }) => ({
          color: hexOf(backgroundColor),
          needed: NEEDED_BY_CONTROLS,
          plate: null,
        }),
        (element) => surroundings(within(element.getBoundingClientRect())),
      ),
    ].map((place) => ({ ...place, label: name(place.label), ...(during && { during }) }))
  }
  return [
    ...texts(BEFORE),
    ...wordBoxes(page, region, timesOf).flatMap(wordsIn),
    ...texts(AFTER),
    ...CONTROLS.flatMap(([label, selector]) =>
      placeOf(
        label,
        seen(selector),
        ({ color, backgroundColor }) => ({
          color: hexOf(color),
          needed: NEEDED_BY_CONTROLS,
          plate: { layer: layerOf(backgroundColor) },
        }),
        whole,
      ),
    ),
  ]
}
