import { readFile } from 'node:fs/promises'
import { fileURLToPath } from 'node:url'
import type { Page } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import { complaintsOf, plays } from './harness'
import { deliverSmall, onHost, pageOf, snippet, type OnHost } from './onHost'

/* The life of regions on visitors' pages: how they start, change, answer, and end. */

const PREVIOUS = fileURLToPath(new URL('./previous/handoff-1.0/', import.meta.url))

let host: OnHost
let second = ''
onHost(
  (made) => (host = made),
  async () => {
    const folder = await deliverSmall(
      'dusk-window.mov',
      'second',
      ...['--start', '4', '--end', '4.6'],
    )
    second = await snippet(folder, 'fragment.html')
    return { '/b/second/': folder, '/old/': PREVIOUS }
  },
)

const PLAIN = { css: 'body { margin: 0 }', body: 'SLOT' }
/** What is pasted, in its two parts. */
const parts = (pasted: string): { head: string; body: string } => {
  const [, head, body] = /^<!--[^>]*-->\n([\s\S]*?)\n\n([\s\S]*)$/.exec(pasted)!
  return { head: head!, body: body! }
}
const style = () => '<link rel="stylesheet" href="/b/hero/backdrop-hero.css">'
const blank = (head: string, body: string): string =>
  `<!doctype html><html lang="en"><head><title>Host</title>${head}</head><body>${body}</body></html>`

const videos = (page: Page) =>
  page.evaluate(() =>
    [...document.querySelectorAll('video')].map((video) => ({
      playing: !video.paused && video.currentTime > 0,
      file: video.currentSrc.split('/').pop()!,
    })),
  )
const allPlay = async (page: Page, count: number): Promise<void> => {
  await expect
    .poll(async () => (await videos(page)).filter(({ playing }) => playing).length)
    .toBe(count)
}
const control = (page: Page) => page.getByRole('button', { name: /the background/ })
const posterOnly = (page: Page) =>
  page.locator('.tln-backdrop').evaluate((root) => root.classList.contains('tln-poster-only'))

describe('a region', () => {
  it.each([
    ['deferred in the head', '<script src="/b/hero/backdrop.js" defer></script>'],
    ['at once in the head', '<script src="/b/hero/backdrop.js"></script>'],
    ['async in the head', '<script src="/b/hero/backdrop.js" async></script>'],
    ['as a module', '<script src="/b/hero/backdrop.mjs" type="module"></script>'],
    [
      'twice, and as a module',
      '<script src="/b/hero/backdrop.js"></script><script src="/b/hero/backdrop.js" defer></script><script src="/b/hero/backdrop.mjs" type="module"></script>',
    ],
  ])('starts with its script %s', async (_, script) => {
    const page = await host.open(blank(style() + script, parts(host.pasted.fragment).body))
    await plays(page)
    await control(page).click()
    await expect.poll(() => videos(page).then(([video]) => video!.playing)).toBe(false)
    expect(await control(page).getAttribute('aria-label')).toBe('Play the background')
  })

  it('starts as a custom element, also one that is made later', async () => {
    const body = parts(host.pasted.fragment)
      .body.replace('<section', '<tln-region')
      .replace('</section>', '</tln-region>')
    const script = '<script src="/b/hero/backdrop-element.mjs" type="module"></script>'
    const page = await host.open(blank(style() + script, body))
    await plays(page)
    await page.evaluate(() => {
      const first = document.querySelector('tln-region')!
      const later = first.cloneNode(true)
      first.replaceWith(later)
    })
    await allPlay(page, 1)
  })

  it('starts when it appears, also bit by bit, and where it has moved to', async () => {
    const page = await host.open(
      blank(parts(host.pasted.fragment).head, '<main></main><aside></aside>'),
    )
    await page.evaluate((html) => {
      document.querySelector('main')!.innerHTML = html
    }, parts(host.pasted.fragment).body)
    await allPlay(page, 1)
    await page.evaluate(() =>
      document.querySelector('aside')!.append(document.querySelector('.tln-region')!),
    )
    await allPlay(page, 1)
    await page.evaluate(() => {
      const whole = document.querySelector('.tln-region')!
      const shell = whole.cloneNode(false) as HTMLElement
      const inner = [...whole.children]
      whole.remove()
      document.querySelector('main')!.append(shell)
      setTimeout(() => shell.append(...inner), 50)
    })
    await allPlay(page, 1)
  })

  it('is released when it disappears: ten lives leave no listener and no playing clip', async () => {
    const page = await host.open(blank(parts(host.pasted.fragment).head, '<main></main>'))
    const listeners = (): Promise<number> =>
      page.evaluate(() => (window as unknown as { listening: number }).listening)
    await page.evaluate(() => {
      const held = window as unknown as { listening: number }
      held.listening = 0
      for (const target of [document, window]) {
        const add = target.addEventListener.bind(target)
        target.addEventListener = (type: string, act: never, options: AddEventListenerOptions) => {
          // The driver of this test listens as well, without a signal.
          if (options?.signal) held.listening++
          options?.signal?.addEventListener('abort', () => held.listening--)
          add(type, act, options)
        }
      }
    })
    for (let life = 0; life < 10; life++) {
      await page.evaluate((html) => {
        document.querySelector('main')!.innerHTML = html
      }, parts(host.pasted.fragment).body)
      await page.locator('.tln-pause:not([hidden])').waitFor()
      expect(await listeners()).toBeGreaterThan(0)
      const left = await page.evaluateHandle(() => document.querySelector('video')!)
      await page.evaluate(() => (document.querySelector('main')!.innerHTML = ''))
      await expect.poll(() => left.evaluate((video) => video.paused)).toBe(true)
    }
    await expect.poll(listeners).toBe(0)
  })

  it('works as a clone: its own control, and once', async () => {
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment))
    await plays(page)
    await page.evaluate(() => {
      const region = document.querySelector<HTMLElement>('.tln-region')!
      region.style.setProperty('--tln-height', '200px')
      region.after(region.cloneNode(true))
    })
    await allPlay(page, 2)
    await control(page).nth(1).click()
    await expect
      .poll(() => videos(page).then((all) => all.map(({ playing }) => playing)))
      .toEqual([true, false])
  })

  it('can be run and released by hand, however often', async () => {
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment))
    await plays(page)
    const same = await page.evaluate(() => {
      const { tln } = window as unknown as {
        tln: { mount: (region: Element) => () => void; unmount: (region: Element) => void }
      }
      const region = document.querySelector('.tln-region')!
      const releases = [tln.mount(region), tln.mount(region)]
      tln.unmount(region)
      releases[0]!()
      return releases[0] === releases[1]
    })
    expect(same).toBe(true)
    await expect.poll(() => videos(page).then(([video]) => video!.playing)).toBe(false)
    // It stays released, whatever happens inside it.
    await page.evaluate(() => document.querySelector('.tln-copy')!.append('More'))
    await page.waitForTimeout(300)
    expect((await videos(page))[0]!.playing).toBe(false)
    await page.evaluate(() =>
      (window as unknown as { tln: { mount: (region: Element) => void } }).tln.mount(
        document.querySelector('.tln-region')!,
      ),
    )
    await allPlay(page, 1)
  })

  it('tells what it does by events that bubble', async () => {
    const page = await host.open(blank(parts(host.pasted.fragment).head, '<main></main>'))
    await page.evaluate((html) => {
      const held = window as unknown as { told: string[] }
      held.told = []
      for (const type of ['tln:play', 'tln:pause', 'tln:poster'])
        document.body.addEventListener(type, () => held.told.push(type))
      document.querySelector('main')!.innerHTML = html
    }, parts(host.pasted.fragment).body)
    const told = (): Promise<string[]> =>
      page.evaluate(() => (window as unknown as { told: string[] }).told)
    await expect.poll(told).toEqual(['tln:play'])
    await control(page).click()
    await expect.poll(told).toEqual(['tln:play', 'tln:pause'])
    await control(page).click()
    await expect.poll(told).toEqual(['tln:play', 'tln:pause', 'tln:play'])
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await expect.poll(async () => (await told()).at(-1)).toBe('tln:poster')
    expect((await told()).filter((type) => type === 'tln:poster')).toHaveLength(1)
  })

  it('of an older markup works with the script of today', async () => {
    const old = (await readFile(`${PREVIOUS}fragment.html`, 'utf8'))
      .replaceAll('"media/', '"/old/media/')
      .replaceAll('"backdrop.css"', '"/old/backdrop.css"')
      .replaceAll('"backdrop.js"', '"/b/hero/backdrop.js"')
    const page = await host.open(pageOf(PLAIN, old))
    await plays(page)
    await control(page).click()
    await expect.poll(() => videos(page).then(([video]) => video!.playing)).toBe(false)
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await expect.poll(() => posterOnly(page)).toBe(true)
  })
})

describe('two backdrops on one page', () => {
  it('have values and files of their own, and a control each', async () => {
    const page = await host.open(
      pageOf(
        { css: 'body { margin: 0 }', body: `SLOT ${parts(second).body}` },
        host.pasted.fragment,
      ).replace('</head>', `${parts(second).head}</head>`),
    )
    await page.addStyleTag({
      content:
        '.tln-region[data-tln="hero"] { --tln-height: 300px } .tln-region[data-tln="second"] { --tln-height: 350px; --tln-focal-point: 10% 20% }',
    })
    await allPlay(page, 2)
    const [first, other] = await videos(page)
    expect(first!.file).toMatch(/^hero-clip-wide-320-h264-[0-9a-f]{8}\.mp4$/)
    expect(other!.file).toMatch(/^second-clip-laptop-\d+-h264-[0-9a-f]{8}\.mp4$/)
    const values = await page.evaluate(() =>
      [...document.querySelectorAll('.tln-region')].map((region) => {
        const style = getComputedStyle(region)
        return ['--tln-height', '--tln-focal-point'].map((name) => style.getPropertyValue(name))
      }),
    )
    expect(values[0]![0]).toBe('300px')
    expect(values[1]![0]).toBe('350px')
    expect(values[0]![1]).not.toBe(values[1]![1])
    await control(page).first().click()
    await expect
      .poll(() => videos(page).then((all) => all.map(({ playing }) => playing)))
      .toEqual([false, true])
  })
})

describe('the backdrop alone', () => {
  it('stands behind what a section has, which stays in front and can be used', async () => {
    const page = await host.open(
      pageOf(
        {
          css: `body { margin: 0 } .hero { padding: 100px; min-height: 500px; color: #fff }
            .hero > * { position: relative }`,
          body: '<section class="hero tln-host">SLOT<h1>Ours</h1><a href="#x">Go</a></section><p>After</p>',
        },
        host.pasted.alone,
      ),
    )
    await plays(page)
    const seen = await page.evaluate(() => {
      const box = (selector: string) => {
        const { x, y, width, height } = document.querySelector(selector)!.getBoundingClientRect()
        return [x, y, width, height].map(Math.round)
      }
      const hit = (selector: string) => {
        const element = document.querySelector(selector)!
        const { x, y, width, height } = element.getBoundingClientRect()
        return document.elementFromPoint(x + width / 2, y + height / 2) === element
      }
      return {
        host: box('.hero'),
        video: box('.tln-video'),
        hits: ['h1', 'a', '.tln-pause'].map(hit),
        after: document.elementFromPoint(20, 740)?.tagName,
      }
    })
    expect(seen.video).toEqual(seen.host)
    expect(seen.hits).toEqual([true, true, true])
    await control(page).click()
    await expect.poll(() => videos(page).then(([video]) => video!.playing)).toBe(false)
  })
})

describe('a visitor', () => {
  it('is not kept waiting by an image of someone else’s that hangs', async () => {
    host.site.rules.hangs = (path) => path === '/hangs.png'
    const page = await host.open(
      pageOf({ css: '', body: 'SLOT<img alt="" src="/hangs.png">' }, host.pasted.fragment),
    )
    await plays(page)
    expect(await page.evaluate(() => document.readyState)).toBe('interactive')
  })

  it('gets the clip although the poster hangs, after a while', async () => {
    host.site.rules.hangs = (path) => path.includes('-poster-')
    host.site.asked.length = 0
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment))
    await page.waitForTimeout(1500)
    expect(host.site.asked.some((path) => path.includes('-poster-'))).toBe(true)
    expect(host.site.asked.filter((path) => path.endsWith('.mp4'))).toEqual([])
    await plays(page)
  })

  it('sees no broken image where the poster is missing', async () => {
    host.site.rules.missing = (path) => path.includes('-poster-')
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment))
    await expect
      .poll(() =>
        page.locator('.tln-poster').evaluate((image) => getComputedStyle(image).visibility),
      )
      .toBe('hidden')
    await plays(page)
  })

  it('gets the file of the wider window when it is made wider, at the same place of the loop', async () => {
    const page = await host.open(pageOf(PLAIN, second), { viewport: { width: 390, height: 800 } })
    await plays(page)
    expect((await videos(page))[0]!.file).toContain('-phone-')
    await page.setViewportSize({ width: 1280, height: 800 })
    await expect.poll(async () => (await videos(page))[0]!.file).toContain('-laptop-')
    await plays(page)
    // A smaller window keeps what is there already.
    await page.setViewportSize({ width: 390, height: 800 })
    await page.waitForTimeout(300)
    expect((await videos(page))[0]).toEqual({
      playing: true,
      file: expect.stringContaining('-laptop-') as string,
    })
  })

  it('who refused the start gets one more try at the first gesture, and no more', async () => {
    const page = await host.open(blank('', ''))
    await page.addInitScript(() => {
      const held = window as unknown as { tries: number; refuses: boolean }
      held.tries = 0
      held.refuses = true
      const play = HTMLMediaElement.prototype.play
      HTMLMediaElement.prototype.play = function (this: HTMLMediaElement) {
        held.tries++
        return held.refuses
          ? Promise.reject(new DOMException('no gesture yet', 'NotAllowedError'))
          : play.call(this)
      }
    })
    const tries = (): Promise<number> =>
      page.evaluate(() => (window as unknown as { tries: number }).tries)
    host.site.pages.set(
      '/refused/',
      pageOf({ css: '', body: 'SLOT<p>Words</p>' }, host.pasted.fragment),
    )
    await page.goto(`${host.site.url}/refused/`)
    await expect.poll(() => posterOnly(page)).toBe(true)
    expect(await tries()).toBe(1)
    await page.getByText('Words').click()
    await expect.poll(tries).toBe(2)
    await page.getByText('Words').click()
    await page.keyboard.press('a')
    expect(await tries()).toBe(2)
    await page.goto(`${host.site.url}/refused/`)
    await expect.poll(() => posterOnly(page)).toBe(true)
    await page.evaluate(() => ((window as unknown as { refuses: boolean }).refuses = false))
    await page.keyboard.press('a')
    await plays(page)
    expect(await posterOnly(page)).toBe(false)
  })

  it('who paused is met by no motion on the next page of the visit, and can start it again', async () => {
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment))
    await plays(page)
    await control(page).click()
    await page.goto(`${host.site.url}/about/team/?again`)
    await page.getByRole('button', { name: 'Play the background' }).waitFor()
    await page.waitForTimeout(500)
    expect((await videos(page))[0]!.playing).toBe(false)
    await control(page).click()
    await plays(page)
    await page.goto(`${host.site.url}/about/team/?third`)
    await plays(page)
    expect(await page.evaluate(() => Object.keys(sessionStorage))).toEqual(['tln-paused'])
  })

  it('sees the focus of the control on light and dark, and keeps a place when it hides', async () => {
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment))
    await plays(page)
    await control(page).focus()
    await page.keyboard.press('Shift+Tab')
    await page.keyboard.press('Tab')
    const ring = await control(page).evaluate((button) => {
      const { outlineColor, outlineWidth, outlineStyle, boxShadow } = getComputedStyle(button)
      return { outlineColor, outlineWidth, outlineStyle, boxShadow }
    })
    expect(ring).toEqual({
      outlineColor: 'rgb(255, 255, 255)',
      outlineWidth: '3px',
      outlineStyle: 'solid',
      boxShadow: 'rgb(0, 0, 0) 0px 0px 0px 6px',
    })
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await expect
      .poll(() => page.evaluate(() => document.activeElement?.className))
      .toBe('tln-region')
  })

  it('below the fold is asked for nothing early', async () => {
    const below = parts(host.pasted.fragment).body.replace('fetchpriority="high"', 'loading="lazy"')
    host.site.asked.length = 0
    const page = await host.open(
      blank(parts(host.pasted.fragment).head, `<div style="height: 6000px"></div>${below}`),
    )
    await page.waitForTimeout(800)
    expect(host.site.asked.filter((path) => path.includes('/media/'))).toEqual([])
    await page.locator('.tln-region').scrollIntoViewIfNeeded()
    await plays(page)
    const media = host.site.asked.filter((path) => path.includes('/media/'))
    expect(media[0]).toContain('-poster-')
  })

  it('prints the copy in black, without picture and control', async () => {
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment))
    await plays(page)
    await page.emulateMedia({ media: 'print' })
    const printed = await page.evaluate(() =>
      ['.tln-backdrop', '.tln-pause', '.tln-heading', '.tln-body', '.tln-button'].map(
        (selector) => {
          const { display, color, backgroundColor } = getComputedStyle(
            document.querySelector(selector)!,
          )
          return display === 'none' ? 'none' : `${color} on ${backgroundColor}`
        },
      ),
    )
    const black = 'rgb(0, 0, 0) on rgba(0, 0, 0, 0)'
    expect(printed).toEqual(['none', 'none', black, black, black])
    const height = await page.locator('.tln-region').evaluate((region) => region.clientHeight)
    expect(height).toBeLessThan(500)
  })

  it('with forced colours sees the shape of the control', async () => {
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment), { forcedColors: 'active' })
    await plays(page)
    const sign = () =>
      control(page).evaluate((button) => {
        const { backgroundColor, clipPath } = getComputedStyle(button, '::before')
        return {
          backgroundColor,
          corners: clipPath.split(',').length,
          ground: getComputedStyle(button).backgroundColor,
        }
      })
    const pause = await sign()
    expect(pause.corners).toBe(8)
    expect(pause.backgroundColor).not.toBe(pause.ground)
    await control(page).click()
    const play = await sign()
    expect(play.corners).toBe(3)
    expect(play.backgroundColor).not.toBe(play.ground)
  })

  it('without script sees the poster on every page of the site', async () => {
    const page = await host.open(pageOf(PLAIN, host.pasted.fragment), { javaScriptEnabled: false })
    const complaints = complaintsOf(page)
    await expect
      .poll(() =>
        page.locator('.tln-poster').evaluate((image: HTMLImageElement) => image.naturalWidth),
      )
      .toBe(320)
    expect(complaints).toEqual([])
  })
})
