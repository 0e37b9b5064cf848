import { fileURLToPath } from 'node:url'
import { seedDemo } from '../demo/seedDemo'
import { startTestServer } from '../server/testing/testServer'
import { launch } from './harness'

/* Makes the pictures in docs/screenshots/ anew, from the demonstration data. */

const out = (name: string): string => fileURLToPath(new URL(`../docs/screenshots/${name}.png`, import.meta.url))
const server = await startTestServer({ prepare: seedDemo })
const browser = await launch()
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as { id: string; latestBackdropId: string }[]
  const shoot = async (name: string, path: string, prepare: () => Promise<void> = async () => undefined, waitMs = 2500): Promise<void> => {
    await page.goto(server.url + path)
    await page.waitForTimeout(waitMs)
    await prepare()
    await page.screenshot({ path: out(name) })
    console.log(name)
  }
  const bench = `/backdrops/${project!.latestBackdropId}`
  await shoot('projects', '/')
  await shoot('project', `/projects/${project!.id}`)
  await shoot('shelf', `/projects/${project!.id}/shelf`)
  const [dusk] = ((await (await fetch(`${server.url}/api/projects/${project!.id}/sources?search=dusk`)).json()) as { sources: { id: string }[] }).sources
  await shoot('source', `/projects/${project!.id}/sources/${dusk!.id}`, async () => {
    const strip = page.getByRole('slider', { name: 'Moment of the clip' })
    const box = (await strip.boundingBox())!
    await page.mouse.click(box.x + box.width * 0.45, box.y + 30)
    await page.waitForTimeout(1500)
  })
  await shoot('workbench-timing', `${bench}/timing`, undefined, 6000)
  await shoot('workbench-legibility', `${bench}/legibility`)
  await shoot('workbench-fit', `${bench}/fit`, async () => {
    await page.getByRole('button', { name: /^Phone/ }).click()
    await page.waitForTimeout(1200)
  })
  await shoot('workbench-behaviour', `${bench}/behaviour`)
  await shoot('workbench-weight', `${bench}/weight`, async () => {
    await page.getByRole('button', { name: /^Make/ }).click()
    await page.getByText('Every file is made').waitFor({ timeout: 180_000 })
    await page.waitForTimeout(1500)
  })
  await shoot('workbench-handoff', `${bench}/handoff`)
  await shoot('workbench-material', `${bench}/material`)
} finally {
  await browser.close()
  await server.stop()
}
