import { createServer, type Server } from 'node:http'
import { basename, join } from 'node:path'
import { chromium, type Browser } from 'playwright-core'
import { encodeClip } from '../encoders/encodeClip'
import { installedEncoders } from '../encoders/installed'
import { CHROMIUM, RenderBrowser } from '../headless/RenderBrowser'
import { pageOnSlowLine } from './arrival'
import { loopRecipe } from './encoders'

/*
 * When a clip begins to move on a slow line: files by encoder programs beside those of the
 * browser's encoders that are as good.
 */

const CLIPS = ['dusk-window.mov', 'rain-platform.mp4']
const SECONDS = 3
const SSIM = 0.96
const TURNS = 5

/** A page that plays `/clip` and notes when its first and its third frame are presented. */
const PAGE = `<!doctype html><body style="margin:0"><video muted playsinline loop></video><script>
const video = document.querySelector('video')
const asked = performance.now()
let count = 0
const look = (now) => {
  count += 1
  if (count === 1) window.first = now - asked
  if (count === 3) window.moves = now - asked
  else video.requestVideoFrameCallback(look)
}
video.requestVideoFrameCallback(look)
video.src = '/clip'
void video.play()
</script>`

/** Serves the page and the file that was given last, in ranges as video elements ask for them. */
async function serve(): Promise<{ server: Server; url: string; give: (bytes: Buffer) => void }> {
  let clip: Buffer = Buffer.alloc(0)
  const server = createServer(({ url, headers }, response) => {
    if (url !== '/clip') {
      response.writeHead(200, { 'Content-Type': 'text/html' }).end(PAGE)
      return
    }
    const [, from = '0', to = ''] = /bytes=(\d+)-(\d*)/.exec(headers.range ?? '') ?? []
    const [start, end] = [Number(from), to === '' ? clip.length - 1 : Number(to)]
    response
      .writeHead(206, {
        'Content-Type': 'video/mp4',
        'Accept-Ranges': 'bytes',
        'Content-Range': `bytes ${start}-${end}/${clip.length}`,
      })
      .end(clip.subarray(start, end + 1))
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = server.address()
  return {
    server,
    url: `http://127.0.0.1:${typeof address === 'object' ? address?.port : 0}`,
    give: (bytes) => (clip = bytes),
  }
}

interface Start {
  readonly first: number
  readonly moves: number
}

async function startOf(browser: Browser, url: string): Promise<Start> {
  const page = await pageOnSlowLine(browser)
  await page.goto(url, { waitUntil: 'commit' })
  const start = await page.waitForFunction(
    () => {
      const { first, moves } = window as unknown as Partial<Start>
      return first !== undefined && moves !== undefined ? { first, moves } : null
    },
    undefined,
    { timeout: 60_000 },
  )
  const value = (await start.jsonValue())!
  await page.context().close()
  return value
}

const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[values.length >> 1]!

/** Prints when files of either kind begin to move, in turns. */
export async function measureMotionStart(demo: string): Promise<void> {
  const { server, url, give } = await serve()
  const renders = await RenderBrowser.start()
  const browser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
  const installed = (await installedEncoders()).filter(
    ({ encoder }) => encoder.program !== 'aomenc',
  )
  for (const name of CLIPS)
    for (const each of installed) {
      const file = join(demo, name)
      const recipe = {
        ...(await loopRecipe(file, each.encoder.family, SECONDS)),
        goal: { kind: 'quality', ssim: SSIM } as const,
      }
      const best = await encodeClip(renders, each, file, { ...recipe, encoder: each.name })
      const plain = await renders.render(file, recipe)
      const files = {
        [each.encoder.program]: Buffer.from(best.bytes),
        'the browser': Buffer.from(plain.bytes),
      }
      const starts = new Map<string, Start[]>(Object.keys(files).map((by) => [by, []]))
      for (let turn = 0; turn < TURNS; turn++)
        for (const [by, bytes] of Object.entries(files)) {
          give(bytes)
          starts.get(by)!.push(await startOf(browser, url))
        }
      const told = [...starts].map(([by, own]) => {
        const at = (of: keyof Start): string =>
          `${Math.round(median(own.map((one) => one[of])))} ms`
        return `${by} ${(files[by]!.byteLength / 1000).toFixed(0)} kB: first frame ${at('first')}, moves at ${at('moves')}`
      })
      console.log(`${basename(name)}, ${each.encoder.family}: ${told.join('; ')}`)
    }
  await browser.close()
  await renders.stop()
  server.close()
}
