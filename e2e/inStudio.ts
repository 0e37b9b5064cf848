import type { Browser, BrowserContext, Page } from 'playwright-core'
import { afterAll, afterEach, beforeAll, beforeEach } from 'vitest'
import { seedDemo } from '../demo/seedDemo'
import { startTestServer, type TestServer } from '../server/testing/testServer'
import { complaintsOf, launch } from './harness'

/**
 * The set-up of a browser test of the studio: the application with its demonstration on its own
 * database, and a new visitor's page.
 */
export interface Studio {
  readonly server: TestServer
  readonly browser: Browser
  readonly context: BrowserContext
  readonly page: Page
  /** Errors on the page's console, and failed scripts. */
  readonly complaints: string[]
}

/** Sets the studio up for the tests of a file; `use` gets it before each of them. */
export function inStudio(use: (studio: Studio) => void): void {
  let server: TestServer
  let browser: Browser
  let context: BrowserContext
  beforeAll(async () => {
    server = await startTestServer({ prepare: seedDemo })
    browser = await launch()
  })
  afterAll(async () => {
    await browser?.close()
    await server?.stop()
  })
  beforeEach(async () => {
    context = await browser.newContext({
      viewport: { width: 1280, height: 800 },
      acceptDownloads: true,
    })
    const page = await context.newPage()
    page.setDefaultTimeout(60_000)
    use({ server, browser, context, page, complaints: complaintsOf(page) })
  })
  afterEach(() => context.close())
}
