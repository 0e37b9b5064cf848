import { spawn } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdtemp, writeFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ClipRecipe } from '../core/backdrop/recipe'
import { plainSequence } from '../core/kinds/footage/footageSequence'
import type { Family } from '../core/weight/families'
import { encodeClip } from '../encoders/encodeClip'
import { installedEncoders } from '../encoders/installed'
import { CHROMIUM, RenderBrowser } from '../headless/RenderBrowser'

/*
 * The pause at the loop point, in each browser of this machine: a page plays a file, notes when
 * each frame is presented, and posts that. No driver is between.
 */

const FRAMES = 330
const SECONDS = 1

/** The page: plays `/clip` in a loop and posts the presented frames. */
const PAGE = `<!doctype html><body style="margin:0;background:#333"><video muted playsinline loop style="width:640px"></video><script>
const video = document.querySelector('video')
const post = (body) => fetch('/result', { method: 'POST', body: JSON.stringify(body) })
const frames = []
video.addEventListener('error', () => post({ error: video.error?.message ?? 'not played' }))
const look = (now, { mediaTime, presentationTime }) => {
  frames.push([mediaTime, presentationTime])
  if (frames.length < ${FRAMES}) video.requestVideoFrameCallback(look)
  else post({ frames })
}
if (!video.requestVideoFrameCallback) post({ error: 'no requestVideoFrameCallback' })
else video.requestVideoFrameCallback(look)
setTimeout(() => post({ error: 'nothing played within a minute' }), 60000)
video.src = '/clip'
video.play().catch((error) => post({ error: error.message }))
</script>`

interface Watched {
  readonly frames?: [number, number][]
  readonly error?: string
}

/** Opens the page in a browser and waits for its result. */
async function watch(command: readonly string[], bytes: Buffer, type: string): Promise<Watched> {
  let take: (watched: Watched) => void = () => undefined
  const posted = new Promise<Watched>((resolve) => (take = resolve))
  const server = createServer((request, response) => {
    if (request.url === '/result') {
      let text = ''
      request.on('data', (part: Buffer) => (text += part.toString()))
      request.on('end', () => {
        response.end()
        take(JSON.parse(text) as Watched)
      })
      return
    }
    if (request.url !== '/clip') {
      response.writeHead(200, { 'Content-Type': 'text/html' }).end(PAGE)
      return
    }
    const range = /^bytes=(\d+)-(\d*)$/.exec(request.headers.range ?? '')
    const [start, end] = range
      ? [Number(range[1]), range[2] ? Number(range[2]) : bytes.byteLength - 1]
      : [0, bytes.byteLength - 1]
    response.writeHead(range ? 206 : 200, {
      'Content-Type': type,
      'Accept-Ranges': 'bytes',
      'Content-Length': end - start + 1,
      ...(range ? { 'Content-Range': `bytes ${start}-${end}/${bytes.byteLength}` } : {}),
    })
    response.end(bytes.subarray(start, end + 1))
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = server.address()
  const url = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}/`
  const [program, ...args] = [...command, url]
  const browser = spawn(program!, args, { stdio: 'ignore' })
  const watched = await posted
  browser.kill('SIGKILL')
  server.closeAllConnections()
  server.close()
  return watched
}

/**
 * Milliseconds from last to first frame at loop points, and between all other frames: medians, and
 * frames skipped at loop points.
 */
function stepsOf(frames: readonly [number, number][]): string {
  const turn = (media: number): number => Math.floor(media / SECONDS + 1e-3)
  const joins: number[] = []
  const usual: number[] = []
  for (let index = 1; index < frames.length; index++) {
    const [[before, from], [media, to]] = [frames[index - 1]!, frames[index]!]
    ;(turn(media) !== turn(before) || media < before ? joins : usual).push(to - from)
  }
  const median = (values: number[]): number =>
    [...values].sort((a, b) => a - b)[values.length >> 1] ?? NaN
  return `join ${median(joins).toFixed(1)} ms, else ${median(usual).toFixed(1)} ms, ratio ${(median(joins) / median(usual)).toFixed(2)} over ${joins.length} joins`
}

/**
 * Measures the pause for each way to write a loop, in Chromium and, where it is installed, in
 * Firefox ESR.
 */
export async function measureJoins(clip: string): Promise<void> {
  const recipe = (family: Family, loops: boolean): ClipRecipe => ({
    kind: 'clip',
    sequence: plainSequence({
      size: { width: 1280, height: 720 },
      cut: { timescale: 30, start: 0, end: 30 * SECONDS },
      frameRate: { num: 30, den: 1 },
      loops,
    }),
    copyBlur: null,
    family,
    width: 640,
    height: 360,
    noiseReduction: 0,
    goal: null,
    encoder: null,
  })
  const browser = await RenderBrowser.start()
  const files = []
  for (const [name, family, loops] of [
    ['H.264 in MP4, the player loops', 'h264', false],
    ['H.264 in MP4, index repeats', 'h264', true],
    ['VP9 in WebM, the player loops', 'vp9', false],
    ['VP9 in MP4, index repeats', 'vp9', true],
  ] as const) {
    const { bytes, facts } = await browser.render(clip, recipe(family, loops))
    files.push({ name, bytes, type: facts.kind === 'clip' ? facts.type : '' })
  }
  for (const program of await installedEncoders()) {
    const { family } = program.encoder
    const { bytes, facts } = await encodeClip(browser, program, clip, {
      ...recipe(family, true),
      goal: { kind: 'quality', ssim: 0.95 },
      encoder: program.name,
    })
    files.push({
      name: `${program.name} in MP4, index repeats`,
      bytes: Buffer.from(bytes),
      type: facts.type,
    })
  }
  await browser.stop()
  const profile = await mkdtemp(join(tmpdir(), 'telon-firefox-'))
  await writeFile(
    join(profile, 'user.js'),
    'user_pref("media.autoplay.default", 0);\nuser_pref("browser.shell.checkDefaultBrowser", false);\nuser_pref("datareporting.policy.dataSubmissionEnabled", false);\n',
  )
  const browsers = [
    {
      name: 'Chromium',
      command: [
        CHROMIUM.executablePath,
        '--headless=new',
        `--user-data-dir=${await mkdtemp(join(tmpdir(), 'telon-chromium-'))}`,
        '--autoplay-policy=no-user-gesture-required',
        ...CHROMIUM.args,
      ],
    },
    {
      name: 'Firefox ESR',
      command: ['/usr/bin/firefox-esr', '--headless', '--no-remote', '--profile', profile],
    },
  ]
  for (const { name, command } of browsers) {
    if (!existsSync(command[0]!)) {
      console.log(`joins in ${name}: not installed here`)
      continue
    }
    for (const file of files) {
      const watched = await watch(command, file.bytes, file.type)
      console.log(
        `joins in ${name}, ${file.name}: ${watched.frames ? stepsOf(watched.frames) : watched.error}`,
      )
    }
  }
}
