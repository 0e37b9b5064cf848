import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { BackdropAction } from '../../core/backdrop/reduce'
import { writeWords } from '../../core/backdrop/writeWords'
import { cutText } from '../../core/bounded'
import { wordsOf } from '../../core/kinds'
import { PART_LIMITS, type CopyParts } from '../../core/copy/copyParts'
import { WORD_LIMITS, type Words, type WordsChange } from '../../core/copy/Words'

/** What is being written in. */
export interface Editing {
  readonly place: string
  /** The id of the words it belongs to; null for the backdrop's own. */
  readonly words: number | null
}

/** A place among words that is written in on the stage. */
interface WordPlace {
  readonly selector: string
  readonly name: string
  readonly read: (words: Words) => string
  readonly change: (text: string) => WordsChange
}

const WORD_PLACES: readonly WordPlace[] = [
  {
    selector: '.tln-heading',
    name: 'Heading',
    read: ({ heading }) => heading,
    change: (heading) => ({ heading }),
  },
  {
    selector: '.tln-body:not(.tln-body ~ .tln-body)',
    name: 'Text',
    read: ({ body }) => body,
    change: (body) => ({ body }),
  },
  {
    selector: '.tln-button:not(.tln-second)',
    name: 'Button',
    read: ({ button }) => button.label,
    change: (label) => ({ button: { label } }),
  },
]

/** A part of the backdrop's own copy that is written in on the stage. */
interface PartPlace {
  readonly selector: string
  readonly name: string
  readonly read: (copy: CopyParts, index: number) => string
  readonly change: (copy: CopyParts, index: number, text: string) => Partial<CopyParts>
}

const PART_PLACES: readonly PartPlace[] = [
  {
    selector: '.tln-body ~ .tln-body',
    name: 'Further text',
    read: ({ more }, index) => more[index % more.length] ?? '',
    change: ({ more }, index, text) => ({
      more: more.map((each, at) =>
        at === index % more.length ? cutText(text, WORD_LIMITS.body) : each,
      ),
    }),
  },
  {
    selector: '.tln-second',
    name: 'Second button',
    read: ({ second }) => second?.label ?? '',
    change: ({ second }, _, text) => ({
      second: second && { ...second, label: cutText(text, WORD_LIMITS.label) },
    }),
  },
  {
    selector: '.tln-onward',
    name: 'Link onward',
    read: ({ onward }) => onward?.label ?? '',
    change: ({ onward }, _, text) => ({
      onward: onward && { ...onward, label: cutText(text, WORD_LIMITS.label) },
    }),
  },
  {
    selector: '.tln-footer',
    name: 'Footer',
    read: ({ footer }) => footer ?? '',
    change: (_, __, text) => ({ footer: cutText(text, PART_LIMITS.footer) }),
  },
]

/** The copy on the stage's page, open for writing. */
export class StageCopy {
  private readonly onWrite: (action: BackdropAction, gesture: string) => void
  private readonly onEditing: (editing: Editing | null) => void
  /** What is shown now: what is written into one of several texts leaves the others as they are. */
  private copy: CopyParts | null = null

  constructor(
    onWrite: (action: BackdropAction, gesture: string) => void,
    onEditing: (editing: Editing | null) => void,
  ) {
    this.onWrite = onWrite
    this.onEditing = onEditing
  }

  /** Opens all places of a page that has just been built. */
  open(page: Document, document: BackdropDocument): void {
    for (const { box, id } of boxesOf(page, document))
      for (const { selector, name, change } of WORD_PLACES)
        box
          .querySelectorAll<HTMLElement>(selector)
          .forEach((element) =>
            this.openOne(element, { place: name, words: id }, (text) =>
              writeWords(document, id, change(text)),
            ),
          )
    for (const { selector, name, change } of PART_PLACES)
      page.querySelectorAll<HTMLElement>(selector).forEach((element, index) =>
        this.openOne(element, { place: name, words: null }, (text) => ({
          type: 'copy/parts',
          parts: change(this.copy ?? document.copy, index, text),
        })),
      )
    page.querySelectorAll<HTMLElement>('.tln-brand').forEach((element) =>
      this.openOne(element, { place: 'Brand', words: null }, (text) => ({
        type: 'copy/write',
        field: 'brand',
        value: cutText(text, 60),
      })),
    )
    page.querySelectorAll<HTMLElement>('.tln-link').forEach((element, index) =>
      this.openOne(element, { place: `Link ${index + 1}`, words: null }, (text) => ({
        type: 'copy/link',
        index,
        value: cutText(text, 40),
      })),
    )
  }

  /** Shows the words of a document. */
  write(page: Document, document: BackdropDocument): void {
    this.copy = document.copy
    const set = (element: HTMLElement | null, text: string): void => {
      // In the element being edited the page is ahead of the document.
      if (element && element !== page.activeElement && element.textContent !== text)
        element.textContent = text
    }
    for (const { box, words } of boxesOf(page, document))
      for (const { selector, read } of WORD_PLACES)
        set(box.querySelector<HTMLElement>(selector), read(words))
    for (const { selector, read } of PART_PLACES)
      page
        .querySelectorAll<HTMLElement>(selector)
        .forEach((element, index) => set(element, read(document.copy, index)))
    set(page.querySelector<HTMLElement>('.tln-brand'), document.copy.brand)
    page
      .querySelectorAll<HTMLElement>('.tln-link')
      .forEach((element, index) => set(element, document.copy.links[index] ?? ''))
  }

  private openOne(
    element: HTMLElement,
    editing: Editing,
    write: (text: string) => BackdropAction | null,
  ): void {
    const { place } = editing
    let gesture = ''
    element.setAttribute('contenteditable', 'plaintext-only')
    // A link that is written in is a text field and leads nowhere.
    element.removeAttribute('href')
    // A heading stays one, as the visitor will meet it.
    if (!element.matches('.tln-heading')) {
      element.setAttribute('role', 'textbox')
      element.setAttribute('aria-label', `${place}, editable`)
    } else element.title = `${place}, editable`
    element.dataset['edit'] = place
    element.dataset['empty'] = place
    element.addEventListener('focus', () => {
      gesture = crypto.randomUUID()
      this.onEditing(editing)
    })
    element.addEventListener('blur', () => this.onEditing(null))
    element.addEventListener('input', () => {
      const action = write((element.textContent ?? '').replaceAll(/\s+/g, ' '))
      if (action) this.onWrite(action, gesture)
    })
    element.addEventListener('keydown', (event) => {
      if (event.key === 'Enter' || event.key === 'Escape') {
        event.preventDefault()
        element.blur()
      }
    })
  }
}

/** The boxes of words on the page, with what stands in them. */
function boxesOf(
  page: Document,
  { base, copy }: BackdropDocument,
): { readonly box: ParentNode; readonly id: number | null; readonly words: Words }[] {
  const turns = wordsOf(base)
  const boxes = [...page.querySelectorAll('.tln-text')]
  if (turns.length === 0) return [{ box: page, id: null, words: copy }]
  return turns.flatMap(({ id, words }, index) => {
    const box = boxes[index]
    return box ? [{ box, id, words: words ?? copy }] : []
  })
}
