import { describe, expect, it } from 'vitest'
import { type BackdropAction } from '../../backdrop/reduce'
import type { DeliveredMedia } from '../../kinds/DeliveredMedia'
import { inventBackdrop, reduced as reduce, SAMPLE_SOURCE_ID } from '../../testing/samples'
import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { createImage, FIRST_DRIFT, type ImageBase } from '../../kinds/image/Image'
import { createPaint, newGradient, type Paint } from '../../kinds/paint/Paint'
import { createSlideshow } from '../../kinds/slideshow/Slideshow'
import { contrastRatio } from '../../scrim/contrast'
import { emitCopy } from '../emitMarkup'
import { layersOf, scriptPartsOf } from '.'

const MEDIA: DeliveredMedia = {
  clips: [
    {
      screenClass: 'wide',
      family: 'av1',
      container: 'mp4',
      url: 'media/wide.mp4',
      codec: 'av01.0.08M.08',
      width: 1920,
      height: 1080,
      bytes: 900_000,
    },
    {
      screenClass: 'phone',
      family: 'h264',
      container: 'mp4',
      url: 'media/phone.mp4',
      codec: 'avc1.64001e',
      width: 640,
      height: 360,
      bytes: 300_000,
    },
  ],
  posters: [
    {
      density: 1,
      screenClass: 'wide',
      format: 'avif',
      url: 'media/wide.avif',
      width: 1920,
      height: 1080,
      bytes: 20_000,
    },
    {
      density: 1,
      screenClass: 'phone',
      format: 'jpeg',
      url: 'media/phone.jpg',
      width: 640,
      height: 360,
      bytes: 9_000,
    },
  ],
  placeholder: null,
}
const SCOPE = { own: '[data-tln="k3f9a2"]', id: 'k3f9a2' }
const after = (...actions: BackdropAction[]) => actions.reduce(reduce, inventBackdrop())
const fading = after(
  { type: 'timing/repeat', repeat: 'once' },
  { type: 'timing/at-end', atEnd: 'fade' },
  { type: 'behaviour/set', behaviour: { playbackRate: 0.5 } },
)

describe('the layers of footage', () => {
  const layers = layersOf(fading, MEDIA)
  it('are the poster, the clip over it, and the scrim over both', () =>
    expect(layers.map(({ type }) => type)).toEqual(['picture', 'video', 'scrim']))
  // Everything that a type of layer writes, in one file each: a change of it is seen at once.
  it.each(layers.map((layer) => [layer.type, layer] as const))(
    'stand in the golden file, word for word: %s',
    async (type, layer) =>
      expect(
        [
          `attributes ${JSON.stringify(layer.attributes(fading))}`,
          `values ${JSON.stringify(layer.values(fading))}`,
          `files ${JSON.stringify(layer.files)}`,
          `script ${layer.scripts.join() || 'none'}`,
          '',
          ...layer.markup(fading),
          '',
          ...layer.ownRules(SCOPE, fading),
          layer.rules,
          layer.printRules,
        ].join('\n'),
      ).toMatchFileSnapshot(`../golden/layers/${type}.txt`),
  )
  it('need the part of the script that plays the clip, once, and no other', () => {
    expect(scriptPartsOf(layers)).toEqual(['video'])
    expect(scriptPartsOf([...layers, ...layers])).toEqual(['video'])
    expect(scriptPartsOf(layers.filter(({ type }) => type !== 'video'))).toEqual([])
  })
  it('say nothing of what is not decided', () => {
    const [, video] = layersOf(inventBackdrop(), MEDIA)
    expect(video!.ownRules(SCOPE, inventBackdrop())).toEqual([])
    expect(Object.values(video!.attributes(inventBackdrop()))).toEqual([null, null])
  })
  it('stand where nothing is rendered yet', () => {
    const [picture, video] = layersOf(fading, { clips: [], posters: [], placeholder: null })
    expect(picture!.markup(fading)).toEqual([])
    expect(video!.markup(fading)[0]).toContain('width="16" height="9"')
  })
})

const image: ImageBase = {
  ...createImage(SAMPLE_SOURCE_ID),
  opacity: 0.8,
  scrolling: 'fixed',
  drift: FIRST_DRIFT,
}
const paint: Paint = {
  ...createPaint(),
  gradients: [
    newGradient('#1b2350', '#b5563c'),
    { ...newGradient('#ffffff', '#000000'), shape: 'radial', space: 'srgb', opacity: 0.5 },
  ],
  blend: 'screen',
  motion: { moves: 'angle', amount: 0.5, seconds: 24 },
}
const DENSE: DeliveredMedia = {
  ...MEDIA,
  clips: [],
  posters: MEDIA.posters.flatMap((poster) => [
    poster,
    { ...poster, density: 2, url: `${poster.url}@2`, width: 2 * poster.width },
  ]),
}
const stills = {
  image: { ...inventBackdrop(), base: image },
  tiles: { ...inventBackdrop(), base: { ...image, placing: 'tile' } },
  paint: {
    ...inventBackdrop(),
    base: paint,
    behaviour: { ...inventBackdrop().behaviour, phone: 'poster' },
  },
} as const satisfies Record<string, BackdropDocument>

const SLIDE_MEDIA: DeliveredMedia = {
  ...MEDIA,
  clips: [],
  posters: [0, 1, 2].flatMap((slide) =>
    MEDIA.posters.map((poster) => ({ ...poster, slide, url: `${slide + 1}-${poster.url}` })),
  ),
}
const slides = createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID])
const slideshows = {
  slides: { ...inventBackdrop(), base: slides },
  'slides-decided': {
    ...inventBackdrop(),
    behaviour: { ...inventBackdrop().behaviour, phone: 'poster' },
    base: {
      ...slides,
      order: 'shuffled',
      controls: { arrows: true, markers: true, place: 'bottom-left' },
      slides: slides.slides.map((slide, index) => ({
        ...slide,
        ...[
          { pan: { from: { x: 0, y: 0, zoom: 1 }, to: { x: 0.1, y: 0.1, zoom: 1.2 } } },
          {
            placing: 'contain' as const,
            focal: { focal: { x: 0.2, y: 0.4 }, ownFocal: { phone: { x: 0, y: 0 }, laptop: null } },
            transition: { ...slides.transition, style: 'edge' as const },
          },
          { holdSeconds: 7, transition: { ...slides.transition, style: 'push' as const } },
        ][index],
      })),
    },
  },
  'slides-words': {
    ...inventBackdrop(),
    base: {
      ...slides,
      slides: slides.slides.map((slide, index) =>
        index === 1
          ? {
              ...slide,
              words: { heading: 'By "day"', body: '', button: { label: 'Go', href: '' } },
            }
          : slide,
      ),
    },
  },
} as const satisfies Record<string, BackdropDocument>

describe('the layers of bases without clips', () => {
  it.each(Object.entries(stills))(
    'stand in the golden file, word for word: %s',
    async (name, document) => {
      const [layer, scrim] = layersOf(document, DENSE)
      expect(scrim!.type).toBe('scrim')
      await expect(
        [
          `files ${JSON.stringify(layer!.files)}`,
          `script ${layer!.scripts.join() || 'none'}`,
          `values ${JSON.stringify(layer!.values(document))}`,
          '',
          ...layer!.markup(document),
          '',
          ...layer!.ownRules(SCOPE, document),
          layer!.rules,
          layer!.printRules,
        ].join('\n'),
      ).toMatchFileSnapshot(`../golden/layers/${name}.txt`)
    },
  )
  it.each(Object.entries(slideshows))(
    'stand in the golden file, word for word: %s',
    async (name, document) => {
      const [layer] = layersOf(document, SLIDE_MEDIA)
      await expect(
        [
          `files ${JSON.stringify(layer!.files)}`,
          `script ${layer!.scripts.join()}`,
          '',
          ...layer!.markup(document),
          '',
          ...layer!.controls(document),
          '',
          ...emitCopy(document),
          ...layer!.wordRules(SCOPE, document),
          '',
          ...layer!.ownRules(SCOPE, document),
          layer!.rules,
          layer!.printRules,
        ].join('\n'),
      ).toMatchFileSnapshot(`../golden/layers/${name}.txt`)
    },
  )
  it('have controls that can be seen on every slide: on white, the worst, and on black', () => {
    const [layer] = layersOf(slideshows['slides-decided'], SLIDE_MEDIA)
    const rules = layer!.ownRules(SCOPE, slideshows['slides-decided']).join('\n')
    const plates = [...rules.matchAll(/background: rgb\(0 0 0 \/ ([\d.]+)\)/g)].map(([, alpha]) =>
      Number(alpha),
    )
    expect(plates.length).toBeGreaterThan(0)
    for (const alpha of plates)
      for (const ground of [0, 255]) {
        const seen = ground * (1 - alpha)
        const white = { r: 255, g: 255, b: 255 }
        expect(contrastRatio(white, { r: seen, g: seen, b: seen })).toBeGreaterThan(4.5)
      }
  })
  it('need no script where nothing moves', () => {
    const still = { ...stills.paint, base: { ...paint, motion: null } }
    expect(scriptPartsOf(layersOf(still, DENSE))).toEqual([])
    expect(scriptPartsOf(layersOf(stills.tiles, DENSE))).toEqual([])
    expect(scriptPartsOf(layersOf(stills.image, DENSE))).toEqual(['moving'])
  })
  it('write no rule of a gradient for browsers that need none', () => {
    const plain = { ...stills.paint, base: { ...paint, gradients: [paint.gradients[1]!] } }
    const [layer] = layersOf(plain, DENSE)
    expect(layer!.ownRules(SCOPE, plain).join()).not.toContain('oklab')
  })
})
