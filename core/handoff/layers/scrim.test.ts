import { describe, expect, it } from 'vitest'
import type { BackdropAction } from '../../backdrop/reduce'
import { evenLayer, linearLayer, type ScrimLayer } from '../../scrim/Scrim'
import { FIGURES, ID, MEDIA, SCRIPTS } from '../../testing/handoffSamples'
import { inventBackdrop, reduced } from '../../testing/samples'
import { FIRST_TEXTURE } from '../../texture/Texture'
import { emitRegion } from '../emitMarkup'
import { emitReadme } from '../emitReadme'
import { emitBackdropStyle } from '../emitStyle'
import { scrimImage } from './scrim'
import { textureImage } from './texture'

const after = (...actions: readonly BackdropAction[]) => actions.reduce(reduced, inventBackdrop())

describe('the scrim in a delivered folder', () => {
  it('writes the scrim as it is measured', () => {
    expect(scrimImage([evenLayer('#14101c', 0.35)])).toBe(
      'linear-gradient(0deg, rgb(20 16 28 / 0.35), rgb(20 16 28 / 0.35))',
    )
    expect(scrimImage([linearLayer('#14101c', [0.35, 0.05], 80)])).toBe(
      'linear-gradient(80deg, rgb(20 16 28 / 0.35), rgb(20 16 28 / 0.05))',
    )
  })
  it('writes an element for each layer that is blended, in order, and reads them again', () => {
    const [even, multiplied, tint]: [ScrimLayer, ScrimLayer, ScrimLayer] = [
      evenLayer('#000000', 0.2),
      { ...linearLayer('#204060', [0.8, 0], 90), blend: 'multiply' },
      { ...evenLayer('#a06030', 0.4), blend: 'color' },
    ]
    const written = (layers: ScrimLayer[]) => {
      const document = after({ type: 'scrim/set', scrim: { layers } })
      const markup = emitRegion(ID, document, MEDIA, 'page')
      return {
        style: emitBackdropStyle(ID, document, MEDIA),
        elements: markup.match(/<div class="tln-scrim[^>]*>/g)!.map((each) => each.slice(12, -2)),
      }
    }
    const { style, elements } = written([even, multiplied, tint, even])
    expect(elements).toEqual([
      'tln-scrim',
      'tln-scrim tln-scrim-2',
      'tln-scrim tln-scrim-3',
      'tln-scrim tln-scrim-4',
    ])
    expect(style).toContain(`--tln-scrim-2: ${scrimImage([multiplied])};`)
    expect(style).toContain(
      '.tln-scrim.tln-scrim-3 { background-image: var(--tln-scrim-3); mix-blend-mode: color; }',
    )
    expect(style).toContain('.tln-scrim.tln-scrim-4 { background-image: var(--tln-scrim-4); }')
    const first = written([multiplied])
    expect(first.elements).toEqual(['tln-scrim tln-scrim-1'])
    expect(first.style).toContain('.tln-scrim.tln-scrim-1 { mix-blend-mode: multiply; }')
    expect(written([]).elements).toEqual(['tln-scrim'])
    const told = (layers: ScrimLayer[]) =>
      emitReadme({
        id: ID,
        name: 'Dusk window',
        document: after({ type: 'scrim/set', scrim: { layers } }),
        media: MEDIA,
        figures: FIGURES,
        scripts: SCRIPTS,
      })
    expect(told([even])).not.toContain('--tln-scrim-2')
    expect(told([even])).not.toContain('--tln-device-pixel')
    expect(told([{ ...even, shape: 'texture' }])).toContain('--tln-device-pixel')
    expect(told([even])).not.toContain('--tln-button-hover-color')
    expect(told([even, multiplied, tint])).toContain('--tln-scrim-2 to --tln-scrim-3')
  })
  it('has another scrim on phones, with as many elements as either needs', () => {
    const even = evenLayer('#000000', 0.2)
    const multiplied: ScrimLayer = { ...evenLayer('#204060', 0.8), blend: 'multiply' }
    const own = (shared: ScrimLayer[], phone: ScrimLayer[]) => {
      const document = after(
        { type: 'scrim/set', scrim: { layers: shared } },
        { type: 'scrim/own', scrim: { layers: phone } },
      )
      const elements = emitRegion(ID, document, MEDIA, 'page').match(
        /<div class="tln-scrim[^>]*>/g,
      )!
      return { style: emitBackdropStyle(ID, document, MEDIA), count: elements.length }
    }
    const phones = /@media \(max-width: 640px\) \{\n([^]*?)\n\}/
    const one = own([even], [multiplied])
    expect(one.count).toBe(1)
    expect(one.style).toContain(`--tln-scrim: ${scrimImage([even])};`)
    expect(phones.exec(one.style)![1]).toContain(`--tln-scrim: ${scrimImage([multiplied])};`)
    expect(phones.exec(one.style)![1]).toContain('.tln-scrim-1 { mix-blend-mode: multiply; }')
    const more = own([even, multiplied], [])
    expect(more.count).toBe(2)
    expect(phones.exec(more.style)![1]).toContain('--tln-scrim: none; --tln-scrim-2: none;')
    expect(phones.exec(more.style)![1]).toContain('.tln-scrim-2 { mix-blend-mode: normal; }')
    expect(own([even], [even]).style).not.toContain('mix-blend-mode')
  })
  it('repeats a texture in device pixels, on the screens that have it', () => {
    const texture: ScrimLayer = {
      ...evenLayer('#000000', 0.4),
      shape: 'texture',
      texture: { ...FIRST_TEXTURE, pattern: 'dots', scale: 2 },
    }
    const even = evenLayer('#000000', 0.2)
    const size = 'calc(12 * var(--tln-device-pixel, 1px))'
    const styleOf = (...actions: BackdropAction[]): string =>
      emitBackdropStyle(ID, after(...actions), MEDIA)
    const both = styleOf({ type: 'scrim/set', scrim: { layers: [even, texture] } })
    expect(both).toContain(`--tln-scrim-2: ${textureImage(texture)};`)
    expect(both).toContain(
      `.tln-scrim-2 { background-image: var(--tln-scrim-2); background-size: ${size} ${size}; image-rendering: pixelated; }`,
    )
    expect(both).toContain('--tln-device-pixel: 1px;')
    expect(both).toMatch(
      /@media \(min-resolution: 2dppx\) \{ [^{]* \{ --tln-device-pixel: 0\.5px; \} \}/,
    )
    expect(styleOf()).not.toContain('--tln-device-pixel')
    // A phone that has another one fills it again.
    const wide = styleOf(
      { type: 'scrim/set', scrim: { layers: [texture] } },
      { type: 'scrim/own', scrim: { layers: [even] } },
    )
    expect(wide).toContain('.tln-scrim-1 { background-size: auto; }')
    const phone = styleOf(
      { type: 'scrim/set', scrim: { layers: [even] } },
      { type: 'scrim/own', scrim: { layers: [texture] } },
    )
    expect(phone).toContain(
      `.tln-scrim-1 { background-size: ${size} ${size}; image-rendering: pixelated; }`,
    )
    expect(phone).toContain('--tln-device-pixel: 1px;')
  })
})
