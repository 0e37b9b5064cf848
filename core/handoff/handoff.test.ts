import type { DescribedFootage } from '../kinds/footage/describeFootage'
import { readFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { builtScripts } from '../../runtime/testing/builtScripts'
import type { Rendition } from '../api/wire'
import {
  clipRecipes,
  pageParts,
  posterRecipes,
  recipeKey,
  type ClipRecipe,
} from '../backdrop/recipe'
import { type BackdropAction } from '../backdrop/reduce'
import { outcomes } from '../behaviour/conditions'
import { inventBackdrop, inventRendition, knownAs, reduced as reduce } from '../testing/samples'
import { assembleHandoff, type HandoffOrder } from './assembleHandoff'
import { deliveredFiles, handoffKeys, shortId } from './deliveredFiles'
import { emitFragment, emitHandoff, textFiles } from './emitHandoff'
import { emitBackdrop, emitCopy, emitRegion } from './emitMarkup'
import { emitBackdropStyle, emitCopyStyle, emitPageStyle } from './emitStyle'
import { inkOn } from '../copy/inkOn'
import { MEDIA, BARE, FIGURES, ID, SCRIPTS } from '../testing/handoffSamples'
import { manifestJsonSchema, manifestSchema } from './manifest'

const DOCUMENT = inventBackdrop()
const after = (...actions: BackdropAction[]) => actions.reduce(reduce, DOCUMENT)

describe('the markup', () => {
  const markup = emitBackdrop(DOCUMENT, MEDIA)
  it('asks for no byte of video before the script, and is silent', () => {
    expect(markup).toMatch(
      /<video class="tln-video" muted loop playsinline [^>]*preload="none" width="1920" height="1080"/,
    )
    expect(markup).not.toContain('autoplay')
  })
  it('lists sources with full codec strings and the windows they are for, in order', () => {
    expect(
      [...markup.matchAll(/<source src="([^"]+)" type="([^"]+)" media="([^"]+)">/g)].map((found) =>
        found.slice(1),
      ),
    ).toEqual([
      [
        'media/clip-wide-1920-vp9.mp4',
        'video/mp4; codecs=&quot;vp09.00.40.08&quot;',
        '(min-width: 641px) and (prefers-reduced-motion: no-preference)',
      ],
      [
        'media/clip-wide-1920-h264.mp4',
        'video/mp4; codecs=&quot;avc1.640028&quot;',
        '(min-width: 641px) and (prefers-reduced-motion: no-preference)',
      ],
      [
        'media/clip-phone-640-h264.mp4',
        'video/mp4; codecs=&quot;avc1.64001e&quot;',
        '(prefers-reduced-motion: no-preference)',
      ],
    ])
  })
  it('offers each screen its own poster in the lightest format it takes, without script', () => {
    expect(
      [...markup.matchAll(/<source srcset="([^"]+)" type="([^"]+)"(?: media="([^"]+)")?>/g)].map(
        (found) => found.slice(1),
      ),
    ).toEqual([
      ['media/poster-1920.avif', 'image/avif', '(min-width: 641px)'],
      ['media/poster-1920.jpg', 'image/jpeg', '(min-width: 641px)'],
      ['media/poster-640.avif', 'image/avif', undefined],
      ['media/poster-640.webp', 'image/webp', undefined],
    ])
    expect(markup).toMatch(
      /<img class="tln-poster" src="media\/poster-640\.jpg" width="640" height="360" alt=""/,
    )
  })
  it('puts the lightest file first, whatever its format, and leaves out what would never be taken', () => {
    const posters = MEDIA.posters.map((poster) => ({
      ...poster,
      bytes: { avif: 20_000, webp: 12_000, jpeg: 15_000, svg: 0 }[poster.format],
    }))
    const found = [
      ...emitBackdrop(DOCUMENT, { ...MEDIA, posters }).matchAll(/<source srcset="([^"]+)"/g),
    ].map(([, url]) => url)
    expect(found).toEqual(['media/poster-1920.jpg', 'media/poster-640.webp'])
  })
  it('fetches no second poster for the clip', () => expect(markup).not.toContain('poster="'))
  it('says that a clip that plays once fades, where it does', () => {
    const fading = after(
      { type: 'timing/repeat', repeat: 'once' },
      { type: 'timing/at-end', atEnd: 'fade' },
    )
    expect(emitBackdrop(fading, MEDIA)).toContain('data-tln-at-end="fade"')
    expect(emitBackdropStyle(ID, fading, BARE)).toContain(
      `.tln-region[data-tln="${ID}"] .tln-ended .tln-video { opacity: 0; }`,
    )
    expect(emitBackdropStyle(ID, DOCUMENT, BARE)).not.toContain('tln-ended')
  })
  it('is skipped by assistive technology and by the tab key', () => {
    expect(markup).toMatch(/^<div class="tln-backdrop" aria-hidden="true"/)
    expect(markup).toContain('tabindex="-1"')
  })
  it('plays once where that is wished', () =>
    expect(emitBackdrop(after({ type: 'timing/repeat', repeat: 'once' }), MEDIA)).not.toMatch(
      / loop /,
    ))
  it('puts autoplay in the markup only when asked', () =>
    expect(
      emitBackdrop(after({ type: 'behaviour/set', behaviour: { autoplayInMarkup: true } }), MEDIA),
    ).toContain(' autoplay '))
  it('lets reduced motion play when that is the choice', () =>
    expect(
      emitBackdrop(after({ type: 'behaviour/set', behaviour: { reducedMotion: 'play' } }), MEDIA),
    ).not.toContain('prefers-reduced-motion'))
  it('keeps small windows from any clip when phones get the poster', () => {
    const wide = { ...MEDIA, clips: MEDIA.clips.slice(0, 2) }
    expect(
      emitBackdrop(after({ type: 'behaviour/set', behaviour: { phone: 'poster' } }), wide),
    ).toContain('media="(min-width: 641px) and')
  })
  it('leaves the pause control out only when asked', () => {
    expect(emitRegion(ID, DOCUMENT, MEDIA, 'fragment')).toContain(
      'class="tln-pause" type="button" hidden aria-label="Pause the background"',
    )
    expect(
      emitRegion(
        ID,
        after({ type: 'behaviour/set', behaviour: { pauseControl: false } }),
        MEDIA,
        'fragment',
      ),
    ).not.toContain('tln-pause')
  })
  it('escapes every word of the copy', () => {
    const nasty = after(
      { type: 'copy/write', field: 'heading', value: '<script>"&\'' },
      { type: 'copy/write', field: 'body', value: '</p><img onerror=x>' },
      { type: 'copy/button', button: { label: '<b>', href: '/?a="b"' } },
    )
    const copy = emitCopy(nasty).join('')
    expect(copy).toContain('&lt;script&gt;&quot;&amp;&#39;')
    expect(copy).not.toMatch(/<(script|img|b)[ >]/)
    expect(copy).toContain('href="/?a=&quot;b&quot;"')
  })
})

describe('the style', () => {
  it('gives narrower windows a focal point of their own, and no other window', () => {
    const point = { type: 'fit/focal', focal: { x: 0.8, y: 0.4 } } as const
    const laptops = after({ ...point, screenClass: 'laptop' })
    expect(emitBackdropStyle(ID, laptops, BARE)).toContain(
      `@media (min-width: 641px) and (max-width: 1440px) { [data-tln="${ID}"] { --tln-focal-point: 80% 40%; } }`,
    )
    expect(emitBackdropStyle(ID, after({ ...point, screenClass: 'phone' }), BARE)).toContain(
      '@media (max-width: 640px) { [data-tln',
    )
  })
  it('offers custom properties, with a height for browsers without svh', () => {
    const style = emitBackdropStyle(ID, DOCUMENT, MEDIA)
    expect(style).toContain('--tln-height: 100vh;')
    expect(style).toContain(
      `@supports (height: 1svh) { [data-tln="${ID}"] { --tln-height: 100svh; } }`,
    )
    expect(
      emitBackdropStyle(
        ID,
        after({ type: 'fit/height', height: { unit: 'px', value: 420 } }),
        BARE,
      ),
    ).toContain('--tln-height: 420px;')
  })
  it('puts the copy where it stands on each class of screens, and says nothing of the usual place', () => {
    const usual = emitCopyStyle(ID, DOCUMENT, BARE)
    expect(usual).not.toContain('align-self')
    const phones = emitCopyStyle(
      ID,
      after({
        type: 'copy/place',
        screens: ['phone'],
        place: { across: 'center', down: 'bottom', align: 'center' },
      }),
      BARE,
    )
    expect(phones).toContain(
      `@media (max-width: 640px) {\n.tln-region[data-tln="${ID}"] .tln-copy { align-self: center; margin: auto 0 0; text-align: center; }`,
    )
    expect(phones.match(/align-self:/g)).toHaveLength(1)
    const all = emitCopyStyle(
      ID,
      after({
        type: 'copy/place',
        screens: ['phone', 'laptop', 'wide'],
        place: { across: 'end', align: 'end' },
      }),
      BARE,
    )
    expect(all).not.toContain('@media (max-width: 640px)')
    expect(all).toContain('align-self: flex-end; margin: auto 0; text-align: end;')
  })
  it('fills the first instant with a tiny picture on its mean colour', () => {
    const style = emitBackdropStyle(ID, DOCUMENT, MEDIA)
    expect(style).toContain('--tln-average-color: #3a2f4b;')
    expect(style).toContain('--tln-placeholder: url("data:image/webp;base64,UklGRg==");')
    expect(emitBackdropStyle(ID, DOCUMENT, BARE)).not.toContain('--tln-placeholder:')
  })
  it('keeps every class and property under one prefix', () => {
    const style =
      emitBackdropStyle(ID, DOCUMENT, MEDIA) +
      emitCopyStyle(ID, DOCUMENT, MEDIA) +
      emitPageStyle(DOCUMENT)
    for (const [, name] of style.matchAll(/\.([a-z][\w-]*)[ ,.:>[{]/g))
      expect(name).toMatch(/^tln-/)
    for (const [, name] of style.matchAll(/--([\w-]+)/g)) expect(name).toMatch(/^tln-/)
  })
  it.each([
    ['#f2b872', '#1a1410'],
    ['#112233', '#ffffff'],
  ])('writes on a button of %s in %s', (ground, ink) => expect(inkOn(ground)).toBe(ink))
})

describe('the folder', () => {
  const files = emitHandoff({
    id: ID,
    name: 'Dusk <window>',
    document: DOCUMENT,
    media: MEDIA,
    figures: FIGURES,
    scripts: SCRIPTS,
  })
  const text = (path: string): string => files.find((file) => file.path === path)!.text
  it('holds what a site needs', () =>
    expect(files.map((file) => file.path).sort()).toEqual([
      'README.txt',
      'backdrop-element.mjs',
      'backdrop-k3f9a2.css',
      'backdrop-only.html',
      'backdrop.d.ts',
      'backdrop.js',
      'backdrop.mjs',
      'copy-k3f9a2.css',
      'fragment.html',
      'index.html',
      'manifest.json',
      'package.json',
      'page.css',
    ]))
  it('is listed with what each file is for', () =>
    expect(textFiles(ID, DOCUMENT).map(({ path }) => path)).toEqual(files.map(({ path }) => path)))
  it('is the same each time', () =>
    expect(
      emitHandoff({
        id: ID,
        name: 'Dusk <window>',
        document: DOCUMENT,
        media: MEDIA,
        figures: FIGURES,
        scripts: SCRIPTS,
      }),
    ).toEqual(files))
  it('asks for nothing from elsewhere and holds no inline script, style or handler', () => {
    for (const path of files.map((file) => file.path).filter((each) => /(html|css)$/.test(each))) {
      expect(text(path).replace(/url\("data:[^"]+"\)/, '')).not.toMatch(/https?:|\/\//)
      expect(text(path)).not.toMatch(/ (style|on\w+)=|<style|<script(?! src)/)
    }
  })
  it('describes itself by a manifest that its own schema takes', () => {
    const manifest = manifestSchema.parse(JSON.parse(text('manifest.json')))
    expect(manifest.name).toBe('Dusk <window>')
    const base = manifest.base as DescribedFootage
    expect(base.loop).toMatchObject({ repeat: 'loop', seconds: 10, frames: 240 })
    expect(manifest.files).toContain('media/clip-wide-1920-vp9.mp4')
    expect(base.seam).toEqual({
      kind: 'straight',
      overlapSeconds: 0,
      ratio: 1,
      deltaE: 0.2,
      worstDeltaE: 9,
      visibility: 'invisible',
      deliveredRatio: 1.2,
    })
    expect(manifest.poster).toEqual({ picture: 'first', swapDeltaE: 0.4, swapWorst: 1.9 })
    expect(manifest.clips[0]).toMatchObject({ repeats: 18, seamRatio: 1 })
    expect(manifest.posters[0]).toMatchObject({
      screen: 'wide',
      type: 'image/avif',
      ssim: 0.996,
      maxBytes: 200_000,
    })
  })
  it('holds the script with the parts that its layers need, as they were built', () => {
    expect(text('backdrop.js')).toBe('c [$& v]')
    expect(text('backdrop.mjs')).toBe('m')
  })
  it('speaks of one loop, however often the index plays it over', () => {
    expect(text('README.txt')).toContain('one loop lasts 10.00 s.')
    expect(text('README.txt')).toContain("img-src 'self' data:")
  })
  it.each(files.map(({ path }) => path).filter((path) => /(html|css|txt|json)$/.test(path)))(
    'stands in the golden file, word for word: %s',
    (path) => expect(text(path)).toMatchFileSnapshot(`./golden/${path}`),
  )
  it('speaks of no repeats where the index is plain', () =>
    expect(
      emitHandoff({
        id: ID,
        name: 'x',
        document: after({ type: 'handoff/set', handoff: { plainIndex: true } }),
        media: MEDIA,
        figures: FIGURES,
        scripts: SCRIPTS,
      }).find((file) => file.path === 'README.txt')!.text,
    ).not.toContain('one loop lasts'))
  it('is a package that leads to files that are there', () => {
    const { exports, types } = JSON.parse(text('package.json')) as {
      exports: Record<string, string | { types: string; default: string }>
      types: string
    }
    const paths = new Set(files.map((file) => `./${file.path}`))
    expect(paths).toContain(types)
    for (const name of ['.', './element']) {
      const entry = exports[name]
      if (typeof entry !== 'object') throw new Error(`${name} is not an entry`)
      expect(paths).toContain(entry.types)
      expect(paths).toContain(entry.default)
    }
  })
  it('takes no more than a budget allows for it, with files for all screens in all formats', async () => {
    const scripts = await builtScripts()
    // As large as a picture of 20 pixels' width becomes, and as little compressible.
    const noise = Array.from({ length: 500 }, (_, at) =>
      ((at * 7919 + (at >> 3) * 104_729) % 251).toString(16),
    )
    const placeholder = {
      ...MEDIA.placeholder!,
      dataUrl: `data:image/webp;base64,${noise.join('').slice(0, 500)}`,
    }
    const source = knownAs({ sha256: 'b'.repeat(64), width: 1920, height: 1080 })
    const { media, figures } = deliveredFiles(ID, DOCUMENT, source, (key) => {
      const recipe = [...clipRecipes(DOCUMENT, source), ...posterRecipes(DOCUMENT, source)].find(
        (each) => recipeKey(each.recipe) === key,
      )!.recipe
      const sha256 = noise.slice(key.length % 50, (key.length % 50) + 32).join('')
      return { ...inventRendition(recipe, 1000), sha256: `${sha256}${key}` }
    })
    expect([media.clips.length, media.posters.length]).toEqual([9, 9])
    const document = after(
      {
        type: 'handoff/set',
        handoff: { baseUrl: 'https://media.example/backgrounds/front-page/' },
      },
      { type: 'fit/focal', focal: { x: 0.333, y: 0.125 }, screenClass: 'phone' },
      { type: 'fit/focal', focal: { x: 0.875, y: 0.667 }, screenClass: 'laptop' },
    )
    const files = emitHandoff({
      id: ID,
      name: 'x',
      document,
      media: { ...media, placeholder },
      figures: { ...figures, particleCost: null },
      scripts,
    })
    const sent = (...paths: string[]): number =>
      paths.reduce(
        (sum, path) => sum + gzipSync(files.find((file) => file.path === path)!.text).byteLength,
        0,
      )
    // What the site's page carries: the demonstration page's header and style are not pasted.
    expect(sent('fragment.html')).toBeLessThanOrEqual(pageParts(document).markup)
    expect(sent(`backdrop-${ID}.css`, `copy-${ID}.css`)).toBeLessThanOrEqual(
      pageParts(document).style,
    )
    expect(sent('backdrop.js')).toBeLessThanOrEqual(pageParts(document).script)
  })
  it('tells the first visit of each screen against its budget', () => {
    const manifest = JSON.parse(
      emitHandoff({
        id: ID,
        name: 'x',
        document: DOCUMENT,
        media: MEDIA,
        figures: FIGURES,
        scripts: SCRIPTS,
      }).find((file) => file.path === 'manifest.json')!.text,
    ) as { firstVisit: { screen: string; bytes: number; budgetBytes: number }[]; clips: object[] }
    expect(
      manifest.firstVisit.map(({ screen, bytes, budgetBytes }) => [screen, bytes, budgetBytes]),
    ).toEqual([
      ['phone', 300_000 + 9_000 + 5_000, 1_000_000],
      ['laptop', 1_900_000 + 34_000 + 5_000, 2_500_000],
      ['wide', 1_900_000 + 34_000 + 5_000, 4_000_000],
    ])
    expect(manifest.clips[0]).toMatchObject({
      ssim: 0.97,
      worstSsim: 0.95,
      psnr: 40,
      seconds: 1,
      passes: 1,
    })
  })
  it('has a JSON Schema in docs/ that is up to date', () => {
    const kept = JSON.parse(
      readFileSync(new URL('../../docs/schema/manifest.schema.json', import.meta.url), 'utf8'),
    ) as object
    expect(kept).toEqual(JSON.parse(JSON.stringify(manifestJsonSchema())))
  })
})

describe('assembling', () => {
  const noRewrite: HandoffOrder['plain'] = () => Promise.reject(new Error('nothing is rewritten'))
  const source = knownAs({ sha256: 'b'.repeat(64), width: 1280, height: 720 })
  const recipes = [...clipRecipes(DOCUMENT, source), ...posterRecipes(DOCUMENT, source)].map(
    ({ recipe }) => recipe,
  )
  const made = (key: string): Rendition => {
    const index = recipes.findIndex((recipe) => recipeKey(recipe) === key)
    const sha256 = String(index).padStart(8, '0').repeat(8)
    return { ...inventRendition(recipes[index]!, 1000), sha256 }
  }
  it('tells which files are not rendered yet', async () => {
    const missing = handoffKeys(DOCUMENT, source)[1]!
    const result = await assembleHandoff({
      id: ID,
      plain: noRewrite,
      name: 'x',
      document: DOCUMENT,
      known: source,
      scripts: SCRIPTS,
      particleCost: null,
      find: async (keys) => keys.filter((key) => key !== missing).map(made),
    })
    expect(result).toEqual({ ok: false, error: [missing] })
  })
  it('lays every medium where the markup looks for it', async () => {
    const result = await assembleHandoff({
      id: ID,
      plain: noRewrite,
      name: 'x',
      document: DOCUMENT,
      known: source,
      scripts: SCRIPTS,
      particleCost: null,
      find: async (keys) => keys.map(made),
    })
    if (!result.ok) throw new Error('not assembled')
    const page = result.value.texts.find((file) => file.path === 'index.html')!.text
    // 1280 pixels are all there is, but each screen has a budget of its own: three files, each in
    // three formats of clip and of still.
    expect(result.value.media.length).toBe(18)
    for (const { path } of result.value.media) expect(page).toContain(`"${path}"`)
  })
})

describe('addresses', () => {
  it('are those of the site in what is pasted, and relative on the demonstration page', () => {
    const placed = after({ type: 'handoff/set', handoff: { baseUrl: '/media/hero/' } })
    for (const form of ['fragment', 'alone'] as const) {
      const pasted = emitFragment(ID, placed, MEDIA, form)
      const urls = [...pasted.matchAll(/(?:src|srcset|href)="([^"#]+)"/g)].map(([, url]) => url)
      expect(urls.length).toBeGreaterThan(8)
      for (const url of urls) expect(url).toMatch(/^\/media\/hero\//)
    }
    const page = emitHandoff({
      id: ID,
      name: 'x',
      document: placed,
      media: MEDIA,
      figures: FIGURES,
      scripts: SCRIPTS,
    }).find((file) => file.path === 'index.html')!.text
    expect(page).not.toContain('/media/hero/')
  })
  it('hold a hash of the content, and equal content stands there once', () => {
    const source = knownAs({ sha256: 'b'.repeat(64), width: 1920, height: 1080 })
    const [wide, laptop] = clipRecipes(DOCUMENT, source)
      .filter(({ recipe }) => recipe.family === 'h264')
      .map(({ recipe }) => recipe)
    const same = (recipe: ClipRecipe): Rendition => ({
      ...inventRendition(recipe, 5000),
      sha256: 'f'.repeat(64),
    })
    const made = new Map([wide!, laptop!].map((recipe) => [recipeKey(recipe), same(recipe)]))
    const { media, files, missing } = deliveredFiles(ID, DOCUMENT, source, (key) => made.get(key))
    const clips = media.clips.filter(({ bytes }) => bytes > 0)
    expect(clips.map(({ url }) => url)).toEqual(
      Array(2).fill('media/k3f9a2-clip-wide-1920-h264-ffffffff.mp4'),
    )
    expect(files.filter(({ sha256 }) => sha256 !== null)).toEqual([
      { path: clips[0]!.url, sha256: 'f'.repeat(64), bytes: 5000 },
    ])
    expect(missing).toHaveLength(handoffKeys(DOCUMENT, source).length - 2)
  })
  it('come under an id that any backdrop has for good', () => {
    expect(shortId('7B1F8C1E-0000-4000-8000-0000000000aa')).toBe('7b1f8c')
    expect(shortId('ab'.repeat(32))).toBe('ababab')
  })
})

describe('the markup of a region', () => {
  const region = (form: 'page' | 'fragment' | 'alone', ...actions: BackdropAction[]): string =>
    emitRegion(ID, after(...actions), MEDIA, form)
  it('has landmarks on a page of its own, with the control inside one', () => {
    expect(region('page')).toMatch(
      /^<div class="tln-region" data-tln="k3f9a2" lang="en">[\s\S]*<header[\s\S]*<\/header>\s*<main class="tln-copy">[\s\S]*<button[\s\S]*<\/main>\s*<\/div>$/,
    )
    expect(region('fragment')).not.toMatch(/<(main|header)/)
  })
  it('stands alone behind what a site has', () => {
    expect(region('alone')).toMatch(
      /^<div class="tln-region tln-behind" data-tln="k3f9a2" lang="en">/,
    )
    expect(region('alone')).not.toContain('tln-copy')
    expect(region('alone')).toContain('tln-pause')
  })
  it('speaks the language, on the level and with the labels that were chosen', () => {
    const chosen = region('fragment', {
      type: 'handoff/set',
      handoff: { lang: 'de', headingLevel: 3, pauseLabel: 'Anhalten', playLabel: 'Abspielen' },
    })
    expect(chosen).toContain('lang="de"')
    expect(chosen).toMatch(/<h3 class="tln-heading">[^<]*<\/h3>/)
    expect(chosen).toContain(
      'aria-label="Anhalten" data-tln-pause-label="Anhalten" data-tln-play-label="Abspielen"',
    )
    expect(chosen).not.toContain('dir=')
  })
  it.each(['ar', 'he-IL', 'fa'])('runs from right to left in %s, in every form', (lang) => {
    for (const form of ['page', 'fragment', 'alone'] as const)
      expect(region(form, { type: 'handoff/set', handoff: { lang } })).toMatch(
        new RegExp(`^<\\w+ [^>]*lang="${lang}" dir="rtl">`),
      )
  })
  it('asks for nothing early where it is further down the page', () => {
    const below = region(
      'fragment',
      { type: 'fit/place', place: 'below' },
      { type: 'behaviour/set', behaviour: { autoplayInMarkup: true } },
    )
    expect(below).toContain('loading="lazy"')
    expect(below).not.toMatch(/fetchpriority|autoplay/)
    expect(region('fragment')).toContain('fetchpriority="high"')
    expect(region('fragment')).not.toContain('loading=')
  })
})

describe('conditions', () => {
  const shows = (actions: BackdropAction[]) =>
    Object.fromEntries(
      outcomes(after(...actions)).map((outcome) => [outcome.condition, outcome.shows]),
    )
  it('are kind by default', () =>
    expect(shows([])).toEqual({
      laptop: 'clip',
      phone: 'clip',
      'reduced-motion': 'poster',
      'data-saver': 'poster',
      'no-script': 'poster',
      refused: 'poster',
      'failed-file': 'poster',
    }))
  it('follow the designer’s choices', () => {
    expect(
      shows([
        {
          type: 'behaviour/set',
          behaviour: {
            phone: 'poster',
            reducedMotion: 'play',
            dataSaver: 'play',
            autoplayInMarkup: true,
          },
        },
      ]),
    ).toMatchObject({
      phone: 'poster',
      'reduced-motion': 'clip',
      'data-saver': 'clip',
      'no-script': 'clip',
    })
  })
})
