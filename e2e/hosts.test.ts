import { mkdtemp } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import { emitRegion } from '../core/handoff/emitMarkup'
import { emitBackdropStyle, emitCopyStyle } from '../core/handoff/emitStyle'
import type { DeliveredMedia } from '../core/kinds/DeliveredMedia'
import { inventBackdrop, reduced } from '../core/testing/samples'
import { CLIPS, complaintsOf, plays, telon } from './harness'
import { HOST_PAGES } from './hostPages'
import { onHost, pageOf, snippet, type OnHost } from './onHost'

/* What is delivered, pasted into pages of other people's making. */

let host: OnHost
/** Backdrops without a clip, by their ids. */
const STILLS = ['still', 'pale', 'slides'] as const
const stills = new Map<string, string>()
onHost(
  (made) => (host = made),
  async () => {
    for (const [id, ...what] of [
      ['still', join(CLIPS, 'fjord-night.webp'), '--width', '320'],
      ['pale', '--paint', 'conic 40deg #1b2350 #b5563c #1b2350', '--particles', 'route-net'],
      [
        'slides',
        join(CLIPS, 'stop-lakeside.jpg'),
        join(CLIPS, 'cabin-berth.jpg'),
        ...['--width', '320', '--controls', '--hold', '1', '--transition', '0.4'],
      ],
    ] as const) {
      const folder = await mkdtemp(join(tmpdir(), `telon-${id}-`))
      const done = await telon(
        'deliver',
        ...what,
        '--out',
        folder,
        '--id',
        id,
        '--base-url',
        `/b/${id}`,
      )
      if (done.code !== 0) throw new Error(done.err)
      stills.set(id, folder)
    }
    return Object.fromEntries([...stills].map(([id, folder]) => [`/b/${id}/`, folder]))
  },
)

/** How the site's own elements look: every computed property of each. */
const ownLooks = (page: Page): Promise<string[]> =>
  page.evaluate(() =>
    [...document.querySelectorAll('[data-own]')].map((element) => {
      const style = getComputedStyle(element)
      return (
        [...style]
          // Sizes and places depend on what stands before them on the page.
          .filter(
            (name) =>
              !/^(perspective|transform)-origin|(inline|block)-size$|^(width|height)$|^-webkit-locale/.test(
                name,
              ),
          )
          .map((name) => `${name}:${style.getPropertyValue(name)}`)
          .join(';')
      )
    }),
  )

const boxes = (page: Page) =>
  page.evaluate(() => {
    const box = (selector: string) => {
      const { x, y, width, height } = document.querySelector(selector)!.getBoundingClientRect()
      return [x, y, width, height].map((each) => Math.round(each))
    }
    return {
      region: box('.tln-region'),
      layers: ['.tln-backdrop', '.tln-poster', '.tln-video', '.tln-scrim'].map(box),
      pause: box('.tln-pause'),
      parent: Math.round(document.querySelector('.tln-region')!.parentElement!.clientWidth),
      scrolls: document.documentElement.scrollWidth > innerWidth,
    }
  })

describe('the fragment on a host page', () => {
  it.each(HOST_PAGES)(
    'fills its place, plays, can be read, and leaves the host as it is: $name',
    async (frame) => {
      const page = await host.open(pageOf(frame, host.pasted.fragment))
      const complaints = complaintsOf(page)
      await plays(page)
      const { region, layers, pause, parent, scrolls } = await boxes(page)
      expect(region[2]).toBe(frame.narrow ? 1080 : 1280)
      expect(region[2]).toBe(parent)
      expect(region[3]).toBeGreaterThanOrEqual(800)
      for (const layer of layers) expect(layer).toEqual(region)
      expect(scrolls).toBe(false)
      // The control: in the corner where lines end, of its own size, and in front.
      const rtl = frame.html?.includes('rtl')
      expect(pause.slice(2)).toEqual([44, 44])
      expect(pause[0]! - region[0]!).toBe(rtl ? 16 : region[2]! - 60)
      expect(region[1]! + region[3]! - pause[1]! - pause[3]!).toBe(16)
      const looks = await page.evaluate(() => {
        const style = (selector: string, ...names: string[]) => {
          const all = getComputedStyle(document.querySelector(selector)!)
          return names.map((name) => all.getPropertyValue(name))
        }
        const hit = (selector: string): boolean => {
          const element = document.querySelector<HTMLElement>(selector)!
          element.scrollIntoView({ block: 'center' })
          const { x, y, width, height } = element.getBoundingClientRect()
          return document.elementFromPoint(x + width / 2, y + height / 2) === element
        }
        const media = (selector: string) =>
          style(
            selector,
            'margin',
            'padding',
            'border-width',
            'border-radius',
            'opacity',
            'filter',
            'object-fit',
          )
        const heading = document.querySelector('.tln-heading')!.getBoundingClientRect()
        const around = document.querySelector('.tln-region')!.getBoundingClientRect()
        return {
          poster: media('.tln-poster'),
          video: media('.tln-video'),
          heading: style('.tln-heading', 'color', 'font-weight', 'text-transform', 'opacity'),
          body: style('.tln-body', 'color', 'opacity'),
          button: style(
            '.tln-button',
            'color',
            'background-color',
            'display',
            'text-decoration-line',
          ),
          sizes: ['.tln-heading', '.tln-body'].map((each) =>
            parseFloat(style(each, 'font-size')[0]!),
          ),
          margins: [heading.left - around.left, around.right - heading.right],
          hits: ['.tln-pause', '.tln-button', '.tln-heading'].map(hit),
        }
      })
      const plainMedia = ['0px', '0px', '0px', '0px', '1', 'none', 'cover']
      expect(looks.poster).toEqual(plainMedia)
      expect(looks.video).toEqual(plainMedia)
      expect(looks.heading).toEqual(['rgb(255, 255, 255)', '700', 'none', '1'])
      expect(looks.body).toEqual(['rgb(255, 255, 255)', '1'])
      expect(looks.button).toEqual([
        'rgb(26, 20, 16)',
        'rgb(242, 184, 114)',
        'inline-block',
        'none',
      ])
      expect(looks.sizes[0]).toBeGreaterThan(50)
      expect(looks.sizes[1]).toBeCloseTo(19.2, 0)
      expect(Math.min(...looks.margins)).toBeGreaterThanOrEqual(40)
      expect(looks.hits).toEqual([true, true, true])
      expect(complaints).toEqual([])

      // None of our rules reaches what is the host's.
      const withStyle = await ownLooks(page)
      await page.evaluate(() =>
        document.querySelectorAll('link[rel=stylesheet]').forEach((link) => link.remove()),
      )
      expect(withStyle.length).toBeGreaterThan(4)
      expect(await ownLooks(page)).toEqual(withStyle)
      await page.close()
    },
  )
})

/** What only some copy has, in front of nothing: no command writes it. */
const PARTS = reduced(inventBackdrop(), {
  type: 'copy/parts',
  parts: {
    rule: true,
    more: ['Open all year'],
    second: { label: 'All routes', href: '#routes' },
    onward: { label: 'Read on', href: '#more' },
    footer: 'Runs every night',
  },
})
const NO_MEDIA: DeliveredMedia = { clips: [], posters: [], placeholder: null }
const PARTS_PASTED = `<!-- parts -->
<style>${emitBackdropStyle('parts', PARTS, NO_MEDIA)}${emitCopyStyle('parts', PARTS, NO_MEDIA)}</style>

${emitRegion('parts', PARTS, NO_MEDIA, 'fragment')}`

/** How each part looks, whatever the site's sizes and typeface are, and whether it can be hit. */
const partLooks = (page: Page) =>
  page.evaluate(() => {
    const names = [
      ...['color', 'background-color', 'display', 'opacity', 'text-decoration-line'],
      ...['text-transform', 'position', 'float', 'border-top-width', 'border-radius', 'filter'],
    ]
    const look = (element: Element, pseudo?: string): string[] => {
      const all = getComputedStyle(element, pseudo)
      if (pseudo && all.content === 'none') return ['no ornament']
      return names.map((name) => `${name}: ${all.getPropertyValue(name)}`)
    }
    return [
      ...['.tln-rule', '.tln-body + .tln-body', '.tln-buttons', '.tln-second', '.tln-end'],
      ...['.tln-onward', '.tln-footer'],
    ].map((selector) => {
      const element = document.querySelector<HTMLElement>(selector)!
      element.scrollIntoView({ block: 'center' })
      const { x, y, width, height } = element.getBoundingClientRect()
      const hit = document.elementFromPoint(x + width / 2, y + height / 2)
      return [selector, ...look(element), ...look(element, '::after'), element.contains(hit)]
    })
  })

/** What a site says of the elements that the parts are. */
const REACHING = `.content a { float: right; opacity: 0.5; border: 3px solid; border-radius: 9px; filter: blur(2px) }
  a::after { content: "↗"; float: right; opacity: 0.2 } div:empty { display: none }
  .content div { opacity: 0.5; text-transform: uppercase; border: 2px solid }
  .content footer { position: absolute; float: left; background: #eee; border: 1px solid; filter: invert(1) }
  .content p { float: left; text-transform: uppercase; border: 1px solid }`

describe('the parts of a copy on a host page', () => {
  it.each(HOST_PAGES.filter(({ name }) => /one class|right to left|black words/.test(name)))(
    'look as on a plain one, whatever the site says of their elements: $name',
    async (frame) => {
      const plain = await host.open(pageOf(HOST_PAGES[0]!, PARTS_PASTED))
      const page = await host.open(
        pageOf({ ...frame, css: `${frame.css} ${REACHING}` }, PARTS_PASTED),
      )
      const looks = await partLooks(page)
      expect(looks).toEqual(await partLooks(plain))
      expect(looks.map((each) => each.at(-1))).toEqual(looks.map(() => true))
    },
  )
})

/** The pages whose rules reach farthest into what is pasted. */
const HARSHEST = HOST_PAGES.filter(({ name }) =>
  /every image|one class|animated|column of a flex layout/.test(name),
)

describe('an image, a paint and a slideshow on a host page', () => {
  it.each(HARSHEST)('fill their place and leave the host as it is: $name', async (frame) => {
    for (const id of STILLS) {
      const pasted = await snippet(stills.get(id)!, 'fragment.html')
      const page = await host.open(pageOf(frame, pasted))
      const complaints = complaintsOf(page)
      await page.waitForLoadState('load')
      const region = await page.locator('.tln-region').boundingBox()
      for (const layer of ['.tln-backdrop', '.tln-image, .tln-paint, .tln-slides', '.tln-scrim'])
        expect(await page.locator(layer).boundingBox(), layer).toEqual(region)
      const canvas = page.locator('.tln-particles')
      if ((await canvas.count()) > 0) {
        await expect.poll(() => canvas.evaluate((each) => getComputedStyle(each).opacity)).toBe('1')
        expect(await canvas.boundingBox()).toEqual(region)
      }
      const image = page.locator('.tln-poster').first()
      if ((await image.count()) > 0) {
        expect(await image.boundingBox()).toEqual(region)
        await expect
          .poll(() => image.evaluate((each: HTMLImageElement) => each.naturalWidth))
          .toBeGreaterThan(0)
        expect(await image.evaluate((each) => getComputedStyle(each).opacity)).toBe('1')
      }
      if (id === 'slides') {
        // The next slide comes, fills the region, and can be changed by hand.
        const second = page.locator('.tln-slide-2.tln-on:not([data-tln-enter])')
        await second.waitFor()
        expect(await second.boundingBox()).toEqual(region)
        expect(await second.evaluate((each) => getComputedStyle(each).opacity)).toBe('1')
        const sizes = await page
          .locator('.tln-go')
          .evaluateAll((all) =>
            all.map((each) => [each.getBoundingClientRect().width, getComputedStyle(each).display]),
          )
        expect(sizes).toEqual([
          [44, 'grid'],
          [28, 'grid'],
          [28, 'grid'],
          [44, 'grid'],
        ])
      }
      const own = await ownLooks(page)
      const alone = await host.open(pageOf(frame, pasted.replace(/<link[^>]*>/g, '<!-- -->')))
      expect(own).toEqual(await ownLooks(alone))
      expect(complaints).toEqual([])
    }
  })
})
