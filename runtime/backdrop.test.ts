import { gzipSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { pageParts } from '../core/backdrop/recipe'
import { layersOf, scriptPartsOf } from '../core/handoff/layers'
import {
  assembleScript,
  PARTS_PLACE,
  SCRIPT_FILES,
  type ScriptForm,
  type ScriptPart,
} from '../core/handoff/scripts'
import { newParticles } from '../core/particles/Particles'
import { STYLES } from '../core/particles/styles'
import { createSlideshow } from '../core/kinds/slideshow/Slideshow'
import { inventBackdrop, SAMPLE_SOURCE_ID } from '../core/testing/samples'
import { builtScripts } from './testing/builtScripts'

const FORMS = Object.keys(SCRIPT_FILES) as ScriptForm[]

describe('the delivered script', async () => {
  const scripts = await builtScripts()
  const footage = (form: ScriptForm): string => assembleScript(scripts, form, ['video'])
  const forms = FORMS.map((form) => [form, footage(form)] as const)
  const modules = [footage('module'), footage('element')]
  it.each(forms)('stays under 2.5 kB gzip, and is there: %s', (_, script) => {
    expect(script).toContain('tln-poster-only')
    expect(gzipSync(script).byteLength).toBeLessThan(2500)
  })
  it.each(FORMS)('has a base under 1.6 kB gzip in its form: %s', (form) =>
    expect(gzipSync(scripts.forms[form]).byteLength).toBeLessThan(1600),
  )
  it.each([
    ['video', 520],
    ['moving', 260],
    ['slides', 1200],
    ['controls', 530],
    ['words', 345],
    ['holds', 290],
    ['particles', 2350],
    ['particleLinks', 720],
    ['particlePointer', 450],
  ] as const)('has the part %s in less than %d bytes gzip', (part, most) =>
    expect(gzipSync(scripts.parts[part]).byteLength).toBeLessThan(most),
  )
  it.each([
    [false, false],
    [true, false],
    [false, true],
    [true, true],
  ])('is what budgets allow for slides, with controls: %s, with words: %s', (arrows, hasWords) => {
    const made = createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID])
    const words = { heading: 'One', body: '', button: { label: '', href: '' } }
    const base = {
      ...made,
      controls: { ...made.controls, arrows },
      slides: made.slides.map((slide, index) =>
        index === 0 && hasWords ? { ...slide, words } : slide,
      ),
    }
    const document = { ...inventBackdrop(), base }
    const parts = scriptPartsOf(layersOf(document, { clips: [], posters: [], placeholder: null }))
    const real = gzipSync(assembleScript(scripts, 'classic', parts)).byteLength
    const { script } = pageParts(document)
    expect(real).toBeLessThanOrEqual(script)
    expect(script).toBeLessThan(real * 1.2)
  })
  it('grows by less than 3 kB gzip for particles with everything', () => {
    const size = (parts: readonly ScriptPart[]): number =>
      gzipSync(assembleScript(scripts, 'classic', parts)).byteLength
    const all = size(['particlePointer', 'particleLinks', 'particles'])
    expect(all - size([])).toBeLessThan(3 * 1024)
    expect(size(['particles'])).toBeLessThan(all - 700)
  })
  it.each(STYLES)('is what budgets allow for particles: $id', ({ definition, id }) => {
    const document = { ...inventBackdrop(), particles: newParticles(definition, id) }
    const layers = layersOf(document, { clips: [], posters: [], placeholder: null })
    const real = gzipSync(assembleScript(scripts, 'classic', scriptPartsOf(layers))).byteLength
    const { script } = pageParts(document)
    expect(real).toBeLessThanOrEqual(script)
    expect(script).toBeLessThan(real * 1.2)
  })
  it.each(FORMS)('holds the parts that are used, in one place, and no others: %s', (form) => {
    expect(scripts.forms[form].split(PARTS_PLACE)).toHaveLength(2)
    expect(assembleScript(scripts, form, [])).not.toContain('tln-video')
    expect(footage(form)).toContain('tln-video')
    expect(footage(form)).not.toContain(PARTS_PLACE)
  })
  it.each(forms)('asks for nothing from elsewhere and makes no code from text: %s', (_, script) =>
    expect(script).not.toMatch(/https?:|eval|Function\(|innerHTML|import/),
  )
  it.each(forms)('names its version and licence first: %s', (_, script) =>
    expect(script).toMatch(/^\/\*! Telon backdrop 1\.\d+\.\d+ \| MIT licence \*\/\n/),
  )
  it('exports what its types declare, and nothing else', async () => {
    const declared = [...scripts.types.matchAll(/export declare function (\w+)/g)].map(
      ([, name]) => name,
    )
    for (const script of modules) {
      const exported = /export\{([^}]*)\}/.exec(script)![1]!
      expect(
        exported
          .split(',')
          .map((each) => each.split(' as ').pop()!)
          .sort(),
      ).toEqual(declared.sort())
    }
  })
  it('does nothing where there is no page: components are rendered on servers, too', async () => {
    for (const script of modules) {
      const module = (await import(
        `data:text/javascript;base64,${Buffer.from(script).toString('base64')}`
      )) as Record<string, unknown>
      expect(Object.keys(module).sort()).toEqual(['mount', 'unmount'])
    }
  })
})
