import { describe, expect, it } from 'vitest'
import type { BackdropAction } from '../backdrop/reduce'
import { FIRST_TYPE } from '../copy/copyParts'
import { createSlideshow } from '../kinds/slideshow/Slideshow'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import { inventBackdrop, reduced as reduce } from '../testing/samples'
import { emitFragment } from './emitHandoff'
import { emitCopy, emitRegion } from './emitMarkup'
import { emitCopyStyle, emitPageStyle } from './emitStyle'

const MEDIA: DeliveredMedia = { clips: [], posters: [], placeholder: null }
const DOCUMENT = inventBackdrop()
const after = (...actions: readonly BackdropAction[]) => actions.reduce(reduce, DOCUMENT)
const style = (document = DOCUMENT): string => emitCopyStyle('a1', document, MEDIA)
/** What a document's style has that the invented one's has not. */
const added = (...actions: readonly BackdropAction[]): string =>
  style(after(...actions))
    .split('\n')
    .filter((line) => !style().includes(line))
    .join('\n')
const SECOND = { label: 'All <routes>', href: '/routes' }

describe('the parts of a copy', () => {
  it('add nothing to markup and style where they are not there', () => {
    expect(emitCopy(DOCUMENT)).toHaveLength(3)
    expect(style()).not.toMatch(/tln-(rule|second|end|onward|footer)/)
    expect(emitPageStyle(DOCUMENT)).not.toContain('tln-solid')
  })
  it('stand in the order in which they are read, escaped', () => {
    const document = after({
      type: 'copy/parts',
      parts: { rule: true, more: ['Beds & breakfast'], second: SECOND },
    })
    expect(emitCopy(document).join('\n'))
      .toBe(`<h1 class="tln-heading">${DOCUMENT.copy.heading}</h1>
<div class="tln-rule" aria-hidden="true"></div>
<p class="tln-body">${DOCUMENT.copy.body}</p>
<p class="tln-body">Beds &amp; breakfast</p>
<div class="tln-buttons">
  <a class="tln-button" href="${DOCUMENT.copy.button.href}">${DOCUMENT.copy.button.label}</a>
  <a class="tln-button tln-second" href="/routes">All &lt;routes&gt;</a>
</div>`)
  })
  it('end the region in all forms but the backdrop alone', () => {
    const document = after({
      type: 'copy/parts',
      parts: { onward: { label: 'Read on', href: '#more' }, footer: 'Runs all year' },
    })
    for (const form of ['page', 'stage', 'fragment'] as const)
      expect(emitRegion('a1', document, MEDIA, form)).toMatch(
        /<footer class="tln-end">\s+<a class="tln-onward" href="#more">Read on<\/a>\s+<p class="tln-footer">Runs all year<\/p>\s+<\/footer>/,
      )
    expect(emitRegion('a1', document, MEDIA, 'alone')).not.toContain('tln-end')
  })
  it('are left out of what is delivered while they say nothing, and stay open on the stage', () => {
    const document = after({
      type: 'copy/parts',
      parts: {
        more: [''],
        second: { label: '', href: '' },
        onward: { label: '', href: '' },
        footer: '',
      },
    })
    const fragment = emitFragment('a1', document, MEDIA, 'fragment')
    expect(fragment).not.toMatch(/tln-(second|end|buttons)/)
    expect(fragment.match(/tln-body/g)).toHaveLength(1)
    const stage = emitRegion('a1', document, MEDIA, 'stage')
    for (const each of ['tln-second', 'tln-onward', 'tln-footer']) expect(stage).toContain(each)
  })
  it('belong to the words of the backdrop, not to those of a slide; a rule stands in all', () => {
    const base = createSlideshow([
      '7b1f8c1e-0000-4000-8000-000000000001',
      '7b1f8c1e-0000-4000-8000-000000000002',
    ])
    const words = { heading: 'By day', body: 'Seats', button: { label: 'Go', href: '#' } }
    const slides = base.slides.map((slide, index) => (index === 1 ? { ...slide, words } : slide))
    const document = after(
      { type: 'base/set', base: { ...base, slides } },
      { type: 'copy/parts', parts: { rule: true, more: ['More'], second: SECOND } },
    )
    const [own, others] = emitCopy(document).join('\n').split('data-tln-slides').slice(1)
    expect([own, others].map((text) => text!.match(/tln-(rule|second)|More/g))).toEqual([
      ['tln-rule', 'More', 'tln-second'],
      ['tln-rule'],
    ])
  })
  it('keep clear of the pause control, and of the controls of slides', () => {
    const onward: BackdropAction = {
      type: 'copy/parts',
      parts: { onward: { label: 'Read on', href: '#' } },
    }
    const room = 'calc(var(--tln-pause-size) + 2 * var(--tln-pause-inset))'
    expect(added(onward)).toContain(`padding: 0 ${room} 1.25em`)
    const base = createSlideshow([
      '7b1f8c1e-0000-4000-8000-000000000001',
      '7b1f8c1e-0000-4000-8000-000000000002',
    ])
    const controls = { ...base.controls, arrows: true, markers: true }
    expect(added({ type: 'base/set', base: { ...base, controls } }, onward)).toContain(
      `padding: 0 ${room} ${room}`,
    )
  })
  it('are dark on paper', () =>
    expect(added({ type: 'copy/parts', parts: { second: SECOND } })).toMatch(
      /@media print \{.*tln-second.*color: #000/,
    ))
})

describe('the type of a copy', () => {
  const set = (fields: Partial<typeof FIRST_TYPE>): string =>
    added({ type: 'copy/type', set: fields })
  it('adds nothing where it is the usual one', () => {
    expect(set({ headingSize: 1.2 })).not.toBe('')
    expect(style(after({ type: 'copy/type', set: { headingSize: 1.2 } }, { type: 'copy/type', set: FIRST_TYPE }))).toBe(style()) // prettier-ignore
  })
  it('sets sizes against the usual ones, weights and lines, for this backdrop only', () => {
    expect(set({ headingSize: 1.5, headingWeight: 400 })).toBe(
      '.tln-region[data-tln="a1"] .tln-heading { font-size: clamp(3.3em, 8.4vw, 6.75em); font-weight: 400; }',
    )
    expect(set({ headingSize: 0.5 })).toContain('clamp(1.1em, 2.8vw, 2.25em)')
    expect(set({ bodySize: 1.25, bodyWeight: 500, lineLetters: 40 })).toBe(
      '.tln-region[data-tln="a1"] .tln-body { font-size: 1.5em; font-weight: 500; max-width: 20em; }',
    )
  })
})

describe('a header that stays', () => {
  const document = after({ type: 'copy/parts', parts: { solidHeader: { color: '#ffffff' } } })
  it('is the demonstration page’s: what is pasted has none', () => {
    expect(emitRegion('a1', document, MEDIA, 'page')).toContain(
      '<header class="tln-header tln-solid">',
    )
    expect(emitFragment('a1', document, MEDIA, 'fragment')).not.toContain('tln-header')
    expect(style(document)).toBe(style())
  })
  it('gets its ground at once, in a colour on which its words are read', () => {
    expect(emitPageStyle(document)).toContain('{ to { color: #1a1410; background: #ffffff; } }')
    const dark = reduce(document, {
      type: 'copy/parts',
      parts: { solidHeader: { color: '#202020' } },
    })
    expect(emitPageStyle(dark)).toContain('{ to { color: #ffffff; background: #202020; } }')
    expect(emitPageStyle(dark)).toContain('step-end')
  })
})

describe('colours of the button and typefaces', () => {
  it('are in the style only where they are chosen', () => {
    expect(style()).not.toMatch(/font-family|:hover|--tln-button-(hover|focus)/)
    const states = { hover: '#ffcc88', focus: '#ffffff' }
    const css = added(
      { type: 'copy/button-colors', color: '#b5563c', states },
      { type: 'copy/type', set: { headingFamily: 'Fen Serif 2, serif', bodyFamily: 'Alder' } },
    )
    expect(css).toContain('--tln-button-color: #b5563c;')
    expect(css).toContain('--tln-button-hover-color: #ffcc88;')
    expect(css).toContain('--tln-button-hover-text-color: #1a1410;')
    expect(css).toContain('.tln-button:not(.tln-second):hover {')
    expect(css).toContain('outline-color: var(--tln-button-focus-color);')
    expect(css).toContain('.tln-heading { font-family: "Fen Serif 2", serif; }')
    expect(css).toContain('.tln-body { font-family: Alder; }')
  })
})
