import { readFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import { join } from 'node:path'
import type { Browser, BrowserContext, Page } from 'playwright-core'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { BackdropRecord } from '../core/api/wire'
import { seedDemo } from '../demo/seedDemo'
import { codeOf, TestClient } from '../server/testing/TestClient'
import { startTestServer, type TestServer } from '../server/testing/testServer'
import { CLIPS, launch } from './harness'
import { inStudio } from './inStudio'

/* Nothing is lost and nobody gets in, as a browser sees it. */

const stage = (on: Page) => on.frameLocator('iframe[title^="The backdrop on"]')
const saved = (on: Page) =>
  on
    .getByRole('status')
    .filter({ hasText: /^Saved/ })
    .waitFor()
const headingField = (on: Page) => stage(on).getByRole('heading', { level: 1 })

/** Writes the heading in place on the stage. */
async function writeHeading(on: Page, text: string): Promise<void> {
  await headingField(on).click()
  await on.keyboard.press('ControlOrMeta+a')
  // All at once: typed letter by letter on a busy machine, half of it may be saved as a revision.
  await on.keyboard.insertText(text)
  await on.keyboard.press('Enter')
}

describe('an edit', () => {
  let server: TestServer
  let context: BrowserContext
  let page: Page
  let complaints: string[]
  inStudio((studio) => ({ server, context, page, complaints } = studio))

  const demo = async (): Promise<BackdropRecord> => {
    const client = new TestClient(server)
    const [project] = (await client.call<{ latestBackdropId: string }[]>('GET', '/api/projects'))
      .body
    return (await client.call<BackdropRecord>('GET', `/api/backdrops/${project!.latestBackdropId}`))
      .body
  }
  const open = async (on: Page = page): Promise<string> => {
    const { id } = await demo()
    await on.goto(`${server.url}/backdrops/${id}/legibility`)
    await headingField(on).waitFor()
    return id
  }
  /**
   * Ends a tab as a crash does: nothing of it is told any more, and nothing is sent at the last
   * moment.
   */
  const crash = async (on: Page): Promise<void> => {
    await on.goto('chrome://crash').catch(() => undefined)
    await on.close()
  }
  const refuseSaves = (on: Page) =>
    on.route('**/api/backdrops/*', (route) =>
      route.request().method() === 'PUT' ? route.abort() : route.continue(),
    )

  it('that could not be saved before its tab crashed is sent when the studio is opened again', async () => {
    await open()
    await refuseSaves(page)
    await writeHeading(page, 'Kept through a closed tab')
    await page.getByRole('status').filter({ hasText: 'Not saved' }).waitFor()
    await crash(page)
    expect((await demo()).document.copy.heading).not.toBe('Kept through a closed tab')
    const again = await context.newPage()
    // Any view will do: it need not be opened to be sent.
    await again.goto(server.url)
    await expect
      .poll(async () => (await demo()).document.copy.heading)
      .toBe('Kept through a closed tab')
  })

  it('that was left behind opens as a conflict where the backdrop has moved on, and either version can be kept', async () => {
    const id = await open()
    await refuseSaves(page)
    await writeHeading(page, 'Left behind')
    await page.getByRole('status').filter({ hasText: 'Not saved' }).waitFor()
    await crash(page)
    const now = await demo()
    await new TestClient(server).save(now, {
      document: { ...now.document, copy: { ...now.document.copy, heading: 'From elsewhere' } },
    })
    const again = await context.newPage()
    await again.goto(`${server.url}/backdrops/${id}/legibility`)
    await again.getByRole('heading', { name: 'This backdrop was changed in another tab' }).waitFor()
    await again.getByRole('button', { name: 'Keep this tab’s version' }).click()
    await saved(again)
    expect((await demo()).document.copy.heading).toBe('Left behind')
  })

  it('made just before another backdrop is opened is saved', async () => {
    await open()
    await writeHeading(page, 'A moment before')
    await page.getByRole('link', { name: 'Vesperline' }).first().click()
    await expect.poll(async () => (await demo()).document.copy.heading).toBe('A moment before')
  })

  it('whose answer is slow, and one made meanwhile, are two revisions and no conflict', async () => {
    await open()
    const before = await demo()
    let firstIsSent = (): void => undefined
    const sent = new Promise<void>((resolve) => (firstIsSent = resolve))
    await page.route('**/api/backdrops/*', async (route) => {
      if (route.request().method() === 'PUT') {
        firstIsSent()
        await new Promise((resolve) => setTimeout(resolve, 1500))
      }
      await route.continue()
    })
    await writeHeading(page, 'First')
    await sent
    await writeHeading(page, 'Second')
    await saved(page)
    await expect.poll(async () => (await demo()).document.copy.heading).toBe('Second')
    expect((await demo()).revision).toBe(before.revision + 2)
    expect(await page.getByRole('dialog').count()).toBe(0)
    expect(complaints).toEqual([])
  })

  it('can be looked at in its earlier revisions, and an earlier one restored', async () => {
    await open()
    const before = await headingField(page).textContent()
    await writeHeading(page, 'To be regretted')
    await saved(page)
    await expect.poll(async () => (await demo()).document.copy.heading).toBe('To be regretted')
    await page.getByRole('button', { name: 'Revisions' }).click()
    const list = page.getByRole('dialog')
    await list
      .getByRole('button', { name: /heading/ })
      .first()
      .waitFor()
    const earlier = list.getByRole('button', { name: /revision \d+/ }).first()
    await earlier.click()
    await page.getByText(/You are viewing revision/).waitFor()
    await expect.poll(() => headingField(page).textContent()).toBe(before)
    expect((await demo()).document.copy.heading).toBe('To be regretted')
    await page.getByRole('button', { name: 'Back to the current one' }).click()
    await expect.poll(() => headingField(page).textContent()).toBe('To be regretted')
    await page.getByRole('button', { name: 'Revisions' }).click()
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /revision \d+/ })
      .first()
      .click()
    await page.getByRole('button', { name: 'Restore this revision' }).click()
    await expect.poll(async () => (await demo()).document.copy.heading).toBe(before)
    await page.getByRole('button', { name: /^Undo: restore revision/ }).click()
    await expect.poll(() => headingField(page).textContent()).toBe('To be regretted')
    await saved(page)
    expect(complaints).toEqual([])
  })

  it('in a tab of an older version is kept, and the tab asks to be reloaded', async () => {
    await open()
    await page.route('**/api/**', async (route) => {
      const answer = await route.fetch()
      // An answer that is under way when the route is taken away is nobody's any more.
      await route
        .fulfill({
          response: answer,
          headers: { ...answer.headers(), 'telon-version': '99.newer' },
        })
        .catch(() => undefined)
    })
    await writeHeading(page, 'In an older tab')
    await page.getByText(/Telon was updated on the server/).waitFor()
    await page.unroute('**/api/**')
    await page.getByRole('button', { name: 'Reload page' }).click()
    await expect.poll(() => headingField(page).textContent()).toBe('In an older tab')
  })

  it('rebuilds the stage without leaving scripts or listeners behind', async () => {
    await open()
    const frame = page.frames().find((each) => each.url().endsWith('/stage.html'))!
    await stage(page).locator('video').waitFor({ state: 'attached' })
    // Each change of the screen builds the region anew.
    for (const name of [/^Phone/, /^Tablet/, /^Wide/, /^Laptop/, /^Phone/, /^Laptop/]) {
      await page.getByRole('group', { name: 'Screen' }).getByRole('button', { name }).click()
      await page.waitForTimeout(150)
    }
    // Whoever still listens pauses its clip when it is told that the page is hidden.
    const told = await frame.evaluate(() => {
      const paused = new Set<unknown>()
      const pause = HTMLMediaElement.prototype.pause
      HTMLMediaElement.prototype.pause = function (this: HTMLMediaElement) {
        paused.add(this)
        return pause.call(this)
      }
      Object.defineProperty(document, 'hidden', { get: () => true, configurable: true })
      document.dispatchEvent(new Event('visibilitychange'))
      return paused.size
    })
    expect(told).toBe(1)
    expect(await frame.evaluate(() => document.querySelectorAll('script').length)).toBe(1)
  })
})

describe('space', () => {
  let server: TestServer
  let page: Page
  inStudio((studio) => ({ server, page } = studio))
  it('that deleted projects take is shown, and can be freed', async () => {
    const client = new TestClient(server)
    const project = await client.makeProject('Old site')
    await client.upload(
      project.id,
      await readFile(join(CLIPS, 'viaduct-crossing.mp4')).then((bytes) =>
        Buffer.concat([bytes, Buffer.from([0, 0, 0, 8]), Buffer.from('free')]),
      ),
      'old.mp4',
    )
    await client.call('DELETE', `/api/projects/${project.id}`)
    // What was stored a moment ago is left alone: as if it had been an hour.
    await server.database.query(
      `UPDATE blobs SET touched_at = now() - interval '1 hour' RETURNING id`,
    )
    await page.goto(`${server.url}/space`)
    await page.getByText(/1 file; the first can go on/).waitFor()
    await page.getByRole('button', { name: 'Free all unused files …' }).click()
    await page.getByRole('button', { name: 'Free all unused files', exact: true }).click()
    await page.getByText(/Last run: 365 kB in 1 file freed/).waitFor()
    await page.getByText('nothing became unused lately').waitFor()
  })
})

describe('a server with a password', () => {
  const PASSWORD = 'night trains leave late'
  let server: TestServer
  let browser: Browser
  let context: BrowserContext
  let page: Page
  beforeAll(async () => {
    server = await startTestServer({ prepare: seedDemo, password: PASSWORD })
    browser = await launch()
  })
  afterAll(async () => {
    await browser.close()
    await server.stop()
  })
  beforeEach(async () => {
    context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
    page = await context.newPage()
    page.setDefaultTimeout(60_000)
  })
  afterEach(() => context.close())
  const signIn = async (password = PASSWORD): Promise<void> => {
    await page.getByLabel('Password').fill(password)
    await page.getByRole('button', { name: 'Sign in' }).click()
  }

  it('asks for it, refuses a wrong one, and shows the projects after the right one', async () => {
    await page.goto(server.url)
    await signIn('something else')
    await page.getByText('The password is not right. Try again.').waitFor()
    await signIn()
    await page.getByRole('heading', { name: 'Vesperline' }).waitFor()
    await page.getByRole('link', { name: 'Access' }).click()
    await page.getByRole('button', { name: 'Sign out' }).click()
    await page.getByLabel('Password').waitFor()
  })

  it('whose session ends during an edit and an upload asks again over the page, and loses neither', async () => {
    await page.goto(server.url)
    await signIn()
    await page.getByRole('link', { name: 'Vesperline' }).click()
    await page.getByRole('link', { name: /Dusk window/ }).click()
    await headingField(page).waitFor()
    await server.database.query('DELETE FROM sessions RETURNING hash')
    await writeHeading(page, 'Through the night')
    await page.getByRole('heading', { name: 'Sign in to Telon' }).waitFor()
    await signIn()
    await saved(page)
    await expect
      .poll(async () => {
        const [row] = await server.database.query<{ heading: string }>(
          `SELECT document -> 'copy' ->> 'heading' AS heading FROM backdrops
            WHERE name = 'Dusk window'`,
        )
        return row!.heading
      })
      .toBe('Through the night')

    await page.getByRole('link', { name: 'Vesperline' }).first().click()
    await page.getByRole('link', { name: /^Shelf/ }).click()
    await page.getByLabel('Files to add').waitFor({ state: 'attached' })
    await server.database.query('DELETE FROM sessions RETURNING hash')
    const bytes = Buffer.concat([
      await readFile(join(CLIPS, 'viaduct-crossing.mp4')),
      Buffer.from([0, 0, 0, 8]),
      Buffer.from('skip'),
    ])
    await page
      .getByLabel('Files to add')
      .setInputFiles({ name: 'late.mp4', mimeType: 'video/mp4', buffer: bytes })
    await page.getByRole('heading', { name: 'Sign in to Telon' }).waitFor()
    await signIn()
    await page.getByRole('heading', { name: 'late.mp4' }).waitFor()
  })
})

describe('a page of another site', () => {
  let server: TestServer
  let browser: Browser
  let foreign: ReturnType<typeof createServer>
  let port: number
  beforeAll(async () => {
    server = await startTestServer({ prepare: seedDemo })
    // A name that first led elsewhere now leads to this machine: what DNS rebinding does.
    browser = await launch(['--host-resolver-rules=MAP *.example 127.0.0.1'])
    foreign = createServer((_request, response) =>
      response.end('<!doctype html><title>Foreign</title>'),
    )
    await new Promise<void>((resolve) => foreign.listen(0, '127.0.0.1', resolve))
    const address = foreign.address()
    port = typeof address === 'object' && address ? address.port : 0
  })
  afterAll(async () => {
    await browser.close()
    foreign.close()
    await server.stop()
  })

  it('can neither read nor write under a name that was bound to this machine', async () => {
    const page = await browser.newPage()
    const rebound = `http://rebound.example:${new URL(server.url).port}`
    const answer = await page.goto(`${rebound}/api/projects`)
    expect([answer!.status(), codeOf({ body: await answer!.json() })]).toEqual([
      421,
      'request/host',
    ])
    const status = await page.evaluate(
      async () =>
        (
          await fetch('/api/projects', {
            method: 'POST',
            headers: { 'Content-Type': 'application/json' },
            body: '{"name":"x"}',
          })
        ).status,
    )
    expect(status).toBe(421)
    await page.close()
  })

  it('can send requests here, and none of them does anything', async () => {
    const page = await browser.newPage()
    await page.goto(`http://other.example:${port}/`)
    const before = await server.database.models.Project.count()
    const outcomes = await page.evaluate(async (url) => {
      const send = (init: RequestInit): Promise<string> =>
        fetch(`${url}/api/projects`, init).then(
          (response) => `${response.type} ${response.status}`,
          () => 'refused',
        )
      return [
        await send({
          method: 'POST',
          mode: 'no-cors',
          headers: { 'Content-Type': 'text/plain' },
          body: '{"name":"From another site"}',
        }),
        await send({
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: '{"name":"From another site"}',
        }),
        await send({ method: 'GET' }),
      ]
    }, server.url)
    expect(outcomes).toEqual(['refused', 'refused', 'refused'])
    expect(await server.database.models.Project.count()).toBe(before)
    await page.close()
  })
})

describe('an address that is not secure', () => {
  it('is told as what it is, since browsers then make no files', async () => {
    const server = await startTestServer({ hosts: ['studio.example'] })
    const rules = '--host-resolver-rules=MAP studio.example 127.0.0.1'
    const browser = await launch([rules])
    try {
      const page = await browser.newPage()
      const notice = page.getByRole('alert').filter({ hasText: 'This address is not secure' })
      await page.goto(`http://studio.example:${new URL(server.url).port}`)
      await notice.waitFor()
      await page.goto(server.url)
      await page.getByRole('heading', { level: 1 }).waitFor()
      expect(await notice.count()).toBe(0)
    } finally {
      await browser.close()
      await server.stop()
    }
  })
})
