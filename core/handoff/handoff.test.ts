import { builtScript } from '../../runtime/testing/builtScript'
import { readFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import type { Rendition } from '../api/wire'
import { reduce, type BackdropAction } from '../backdrop/reduce'
import { clipRecipes, PAGE_PARTS, posterRecipes, recipeKey } from '../backdrop/recipe'
import { CLIP_FACTS, inventBackdrop, inventRendition, POSTER_FACTS } from '../testing/samples'
import { outcomes } from '../behaviour/conditions'
import { assembleHandoff, handoffKeys } from './assembleHandoff'
import { emitHandoff, type HandoffFigures } from './emitHandoff'
import { emitBackdrop, emitCopy, emitRegion } from './emitMarkup'
import { emitBackdropStyle, emitCopyStyle, inkOn, scrimImage } from './emitStyle'
import type { HandoffMedia } from './HandoffMedia'
import { manifestJsonSchema, manifestSchema } from './manifest'

const DOCUMENT = inventBackdrop()
const MEDIA: HandoffMedia = {
  clips: [
    {
      screenClass: 'wide',
      family: 'vp9',
      container: 'mp4',
      url: 'media/clip-wide-1920-vp9.mp4',
      codec: 'vp09.00.40.08',
      width: 1920,
      height: 1080,
      bytes: 1_800_000,
    },
    {
      screenClass: 'wide',
      family: 'h264',
      container: 'mp4',
      url: 'media/clip-wide-1920-h264.mp4',
      codec: 'avc1.640028',
      width: 1920,
      height: 1080,
      bytes: 1_900_000,
    },
    {
      screenClass: 'phone',
      family: 'h264',
      container: 'mp4',
      url: 'media/clip-phone-640-h264.mp4',
      codec: 'avc1.64001e',
      width: 640,
      height: 360,
      bytes: 300_000,
    },
  ],
  posters: [
    {
      screenClass: 'wide',
      format: 'avif',
      url: 'media/poster-1920.avif',
      width: 1920,
      height: 1080,
      bytes: 9_000,
    },
    {
      screenClass: 'wide',
      format: 'jpeg',
      url: 'media/poster-1920.jpg',
      width: 1920,
      height: 1080,
      bytes: 34_000,
    },
    {
      screenClass: 'phone',
      format: 'avif',
      url: 'media/poster-640.avif',
      width: 640,
      height: 360,
      bytes: 3_000,
    },
    {
      screenClass: 'phone',
      format: 'webp',
      url: 'media/poster-640.webp',
      width: 640,
      height: 360,
      bytes: 4_000,
    },
    {
      screenClass: 'phone',
      format: 'jpeg',
      url: 'media/poster-640.jpg',
      width: 640,
      height: 360,
      bytes: 9_000,
    },
  ],
  placeholder: POSTER_FACTS.placeholder,
}
const FIGURES: HandoffFigures = {
  clips: MEDIA.clips.map((_, index) => ({ ...CLIP_FACTS, deliveredSeamRatio: 1 + index / 10 })),
  posters: MEDIA.posters.map((_, index) => ({ ...POSTER_FACTS, swapDeltaE: index / 10 })),
}
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
      bytes: { avif: 20_000, webp: 12_000, jpeg: 15_000 }[poster.format],
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
    expect(emitBackdropStyle(fading, null)).toContain('.tln-ended .tln-video { opacity: 0; }')
    expect(emitBackdropStyle(DOCUMENT, null)).not.toContain('tln-ended')
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
    expect(emitRegion(DOCUMENT, MEDIA)).toContain(
      'class="tln-pause" type="button" hidden aria-label="Pause the background"',
    )
    expect(
      emitRegion(after({ type: 'behaviour/set', behaviour: { pauseControl: false } }), MEDIA),
    ).not.toContain('tln-pause')
  })
  it('escapes every word of the copy', () => {
    const nasty = after(
      { type: 'copy/write', field: 'heading', value: '<script>"&\'' },
      { type: 'copy/write', field: 'body', value: '</p><img onerror=x>' },
      { type: 'copy/button', button: { label: '<b>', href: '/?a="b"' } },
    )
    expect(emitCopy(nasty)).toContain('&lt;script&gt;&quot;&amp;&#39;')
    expect(emitCopy(nasty)).not.toMatch(/<(script|img|b)[ >]/)
    expect(emitCopy(nasty)).toContain('href="/?a=&quot;b&quot;"')
  })
})

describe('the style', () => {
  it('offers custom properties, with a height for browsers without svh', () => {
    const style = emitBackdropStyle(DOCUMENT, MEDIA.placeholder)
    expect(style).toContain('--tln-height: 100vh;')
    expect(style).toContain('@supports (height: 1svh) { .tln-region { --tln-height: 100svh; } }')
    expect(
      emitBackdropStyle(after({ type: 'fit/height', height: { unit: 'px', value: 420 } }), null),
    ).toContain('--tln-height: 420px;')
  })
  it('fills the first instant with a tiny picture on its mean colour', () => {
    const style = emitBackdropStyle(DOCUMENT, MEDIA.placeholder)
    expect(style).toContain('--tln-average-color: #3a2f4b;')
    expect(style).toContain('--tln-placeholder: url("data:image/webp;base64,UklGRg==");')
    expect(style).toContain(
      'background: var(--tln-average-color) var(--tln-placeholder) var(--tln-focal-point) / cover no-repeat;',
    )
    expect(emitBackdropStyle(DOCUMENT, null)).not.toContain('tln-tiny')
  })
  it('writes the scrim as it is measured', () => {
    expect(scrimImage(DOCUMENT)).toBe(
      'linear-gradient(0deg, rgb(20 16 28 / 0.35), rgb(20 16 28 / 0.35))',
    )
    expect(
      scrimImage(
        after({ type: 'scrim/set', scrim: { kind: 'gradient', angleDeg: 80, toStrength: 0.05 } }),
      ),
    ).toBe('linear-gradient(80deg, rgb(20 16 28 / 0.35), rgb(20 16 28 / 0.05))')
  })
  it('keeps every class and property under one prefix', () => {
    const style = emitBackdropStyle(DOCUMENT, MEDIA.placeholder) + emitCopyStyle(DOCUMENT)
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
    name: 'Dusk <window>',
    document: DOCUMENT,
    media: MEDIA,
    figures: FIGURES,
    script: 'void 0',
  })
  const text = (path: string): string => files.find((file) => file.path === path)!.text
  it('holds what a site needs', () =>
    expect(files.map((file) => file.path).sort()).toEqual([
      'README.txt',
      'backdrop.css',
      'backdrop.js',
      'fragment.html',
      'index.html',
      'manifest.json',
      'page.css',
    ]))
  it('is the same each time', () =>
    expect(
      emitHandoff({
        name: 'Dusk <window>',
        document: DOCUMENT,
        media: MEDIA,
        figures: FIGURES,
        script: 'void 0',
      }),
    ).toEqual(files))
  it('asks for nothing from elsewhere and holds no inline script, style or handler', () => {
    for (const path of ['index.html', 'fragment.html', 'backdrop.css', 'page.css']) {
      expect(text(path).replace(/url\("data:[^"]+"\)/, '')).not.toMatch(/https?:|\/\//)
      expect(text(path)).not.toMatch(/ (style|on\w+)=|<style|<script(?! src)/)
    }
  })
  it('describes itself by a manifest that its own schema takes', () => {
    const manifest = manifestSchema.parse(JSON.parse(text('manifest.json')))
    expect(manifest.name).toBe('Dusk <window>')
    expect(manifest.loop).toMatchObject({ repeat: 'loop', seconds: 10, frames: 240 })
    expect(manifest.files).toContain('media/clip-wide-1920-vp9.mp4')
    expect(manifest.seam).toEqual({
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
  it('speaks of one loop, however often the index plays it over', () => {
    expect(text('README.txt')).toContain('one loop lasts 10.00 s.')
    expect(text('README.txt')).toContain("img-src 'self' data:")
  })
  it('stands in the golden file, word for word', () =>
    expect(text('fragment.html')).toMatchFileSnapshot('./golden/fragment.html'))
  it('takes no more than a budget allows for it', async () => {
    const script = await builtScript()
    const files = emitHandoff({
      name: 'x',
      document: DOCUMENT,
      media: MEDIA,
      figures: FIGURES,
      script,
    })
    const sent = (...paths: string[]): number =>
      paths.reduce(
        (sum, path) => sum + gzipSync(files.find((file) => file.path === path)!.text).byteLength,
        0,
      )
    expect(sent('index.html')).toBeLessThanOrEqual(PAGE_PARTS.markup)
    expect(sent('backdrop.css', 'page.css')).toBeLessThanOrEqual(PAGE_PARTS.style)
    expect(sent('backdrop.js')).toBeLessThanOrEqual(PAGE_PARTS.script)
  })
  it('tells the first visit of each screen against its budget', () => {
    const manifest = JSON.parse(
      emitHandoff({
        name: 'x',
        document: DOCUMENT,
        media: MEDIA,
        figures: FIGURES,
        script: '',
      }).find((file) => file.path === 'manifest.json')!.text,
    ) as { firstVisit: { screen: string; bytes: number; budgetBytes: number }[]; clips: object[] }
    expect(
      manifest.firstVisit.map(({ screen, bytes, budgetBytes }) => [screen, bytes, budgetBytes]),
    ).toEqual([
      ['phone', 300_000 + 9_000 + 4_000, 1_000_000],
      ['laptop', 1_900_000 + 34_000 + 4_000, 2_500_000],
      ['wide', 1_900_000 + 34_000 + 4_000, 4_000_000],
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
  const source = { sha256: 'b'.repeat(64), width: 1280, height: 720 }
  const recipes = [...clipRecipes(DOCUMENT, source), ...posterRecipes(DOCUMENT, source)].map(
    ({ recipe }) => recipe,
  )
  const made = (key: string): Rendition =>
    inventRendition(
      recipes.find((recipe) => recipeKey(recipe) === key)!,
      1000,
    )
  it('tells which files are not rendered yet', async () => {
    const missing = handoffKeys(DOCUMENT, source)[1]!
    const result = await assembleHandoff({
      name: 'x',
      document: DOCUMENT,
      source,
      script: '',
      find: async (keys) => keys.filter((key) => key !== missing).map(made),
    })
    expect(result).toEqual({ ok: false, error: [missing] })
  })
  it('lays every medium where the markup looks for it', async () => {
    const result = await assembleHandoff({
      name: 'x',
      document: DOCUMENT,
      source,
      script: '',
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
