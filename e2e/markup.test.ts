import { spawnSync } from 'node:child_process'
import { createRequire } from 'node:module'
import { readFile, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { AxeBuilder } from '@axe-core/playwright'
import { HtmlValidate } from 'html-validate'
import { describe, expect, it } from 'vitest'
import { plays } from './harness'
import { onHost, pageOf, type OnHost } from './onHost'

/* The delivered markup before checkers: of the standard, and of accessibility. */

let host: OnHost
onHost((made) => (host = made))

const PLAIN = { css: 'body { margin: 0 }', body: 'SLOT<p>After</p>' }

/** The delivered page, and pages with what is pasted. */
async function pages(): Promise<Record<string, string>> {
  return {
    'index.html': await readFile(join(host.folder, 'index.html'), 'utf8'),
    fragment: pageOf(PLAIN, host.pasted.fragment),
    'backdrop alone': pageOf(
      { ...PLAIN, body: '<section class="tln-host">SLOT<h1>Ours</h1></section>' },
      host.pasted.alone,
    ),
  }
}

describe('the markup', () => {
  it('passes an HTML checker', async () => {
    const checker = new HtmlValidate({ extends: ['html-validate:standard'] })
    for (const [name, html] of Object.entries(await pages())) {
      const report = await checker.validateString(html)
      const found = report.results.flatMap(({ messages }) => messages)
      expect(
        found.map(({ ruleId, message, line }) => `${name}:${line} ${ruleId}: ${message}`),
      ).toEqual([])
    }
  })

  const java = spawnSync('java', ['-version']).status === 0
  it.skipIf(!java)('passes the checker of the standard’s own makers, where Java is', async () => {
    const jar = join(
      dirname(createRequire(import.meta.url).resolve('vnu-jar/package.json')),
      'build/dist/vnu.jar',
    )
    const files: string[] = []
    for (const [name, html] of Object.entries(await pages())) {
      const file = join(host.folder, `checked-${name.replaceAll(/\W/g, '-')}.html`)
      await writeFile(file, html)
      files.push(file)
    }
    const { status, stdout, stderr } = spawnSync('java', ['-jar', jar, '--stdout', ...files], {
      encoding: 'utf8',
    })
    expect(`${stdout}${stderr}`.trim()).toBe('')
    expect(status).toBe(0)
  })
  if (!java) console.info('Java is not installed: the checker of the standard is left out.')
})

describe('the demonstration page', () => {
  it.each([320, 768, 1280])('has no accessibility violation at %i pixels', async (width) => {
    const page = await host.open('', { viewport: { width, height: 800 } }, '/none/')
    await page.goto(`${host.site.url}/b/hero/index.html`)
    await plays(page)
    const { violations, passes } = await new AxeBuilder({ page }).analyze()
    expect(
      violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html).join(' ')}`),
    ).toEqual([])
    expect(passes.map(({ id }) => id)).toEqual(
      expect.arrayContaining(['region', 'landmark-one-main', 'button-name', 'html-has-lang']),
    )
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBe(width)
  })
})
