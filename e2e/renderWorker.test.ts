import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { existsSync } from 'node:fs'
import { connect, createServer, type Server, type Socket } from 'node:net'
import { mkdtemp, readdir, readFile, rm, stat } from 'node:fs/promises'
import { hostname, tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { SeenWorker, WorkJob } from '../core/api/work'
import type { BackdropRecord, Rendition } from '../core/api/wire'
import {
  probeOf,
  recipeKey,
  type ClipRecipe,
  type PosterRecipe,
  type ProbeRecipe,
} from '../core/backdrop/recipe'
import { plainSequence } from '../core/kinds/footage/footageSequence'
import { installedEncoders } from '../encoders/installed'
import { pictureEncoder } from '../encoders/encodePicture'
import { inProject } from '../node/projectRoot'
import { descendants, killAtOnce } from '../server/testing/processes'
import { TestClient } from '../server/testing/TestClient'
import { versionOf } from '../node/version'
import { startTestServer, type TestServer } from '../server/testing/testServer'
import { asFootage } from '../core/testing/samples'
import { CLIPS, complaintsOf, launch } from './harness'

/*
 * Render workers in processes of their own, as npm start runs them, against a real server: what
 * they make, and what happens when something ends in the middle of it.
 */

const TOKEN = `tln_${'w'.repeat(43)}`
const x264 = (await installedEncoders({})).find(({ encoder }) => encoder.program === 'x264')
const sharp = await pictureEncoder({})
/** A silent worker's job comes back after 20 s; another one renders it then. */
const LONG = { timeout: 120_000, interval: 200 }
const SOON = { timeout: 120_000, interval: 20 }

let server: TestServer
let client: TestClient
let sha256: string
let folder: string
let returning: NodeJS.Timeout
beforeAll(async () => {
  server = await startTestServer({ workerToken: TOKEN })
  client = new TestClient(server)
  const project = await client.makeProject()
  const clip = await readFile(join(CLIPS, 'viaduct-crossing.mp4'))
  sha256 = (await client.upload(project.id, clip, 'viaduct.mp4')).sha256
  folder = await mkdtemp(join(tmpdir(), 'telon-worker-'))
  // As the server's own process does it.
  returning = setInterval(() => void server.work.returnSilent(), 2000)
})
afterAll(async () => {
  clearInterval(returning)
  await server.stop()
  await rm(folder, { recursive: true, force: true })
})

const workers: ChildProcess[] = []
afterEach(async () => {
  for (const child of workers.splice(0)) {
    if (child.exitCode !== null || child.signalCode !== null) continue
    child.kill('SIGTERM')
    await once(child, 'exit')
  }
})

/** The clip as a backdrop, cut to so many frames, with files for one class of screens. */
async function openSmall(frames: number): Promise<BackdropRecord> {
  const clip = await readFile(join(CLIPS, 'viaduct-crossing.mp4'))
  const { backdrop } = await client.makeBackdrop(clip, 'Hero')
  const document = asFootage(backdrop.document)
  const { timescale } = document.base.timing.cut
  const { renditions } = document.weight
  const formats = { av1: false, vp9: false, h264: true }
  await client.save(backdrop, {
    document: {
      ...document,
      base: {
        ...document.base,
        timing: {
          ...document.base.timing,
          cut: { timescale, start: 0, end: (frames / 25) * timescale },
        },
      },
      poster: { ...document.poster, avif: false },
      weight: {
        ...document.weight,
        renditions: {
          phone: { ...renditions.phone, formats, enabled: false },
          laptop: { ...renditions.laptop, formats, enabled: false },
          wide: { ...renditions.wide, formats, enabled: true, budgetBytes: 60_000 },
        },
      },
    },
  })
  return backdrop
}

/** Starts a worker; resolves when the server knows it. */
async function startWorker(env: Record<string, string> = {}): Promise<ChildProcess> {
  const isThere = await newcomer()
  const child = spawn(process.execPath, [inProject('dist/server/renderWorker.js')], {
    env: {
      ...process.env,
      ...{ TELON_SERVER: server.url, TELON_WORKER_TOKEN: TOKEN, TMPDIR: folder },
      ...env,
    },
    stdio: 'ignore',
  })
  workers.push(child)
  await expect.poll(isThere, LONG).toBe(true)
  return child
}

/** Joins by the command that the studio shows; `ended` gives its exit code and what it said. */
async function joinBy(token: string): Promise<{ ended: Promise<[code: number, said: string]> }> {
  const isThere = await newcomer()
  const child = spawn(
    process.execPath,
    [inProject('scripts/renderWorker.mjs'), '--server', server.url, '--token', token],
    { env: { ...process.env, TMPDIR: folder } },
  )
  workers.push(child)
  let said = ''
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (data: Buffer) => (said += data.toString()))
  await expect.poll(isThere, LONG).toBe(true)
  return { ended: once(child, 'exit').then(([code]) => [code as number, said]) }
}
/** Whether a worker has come since; others may be forgotten meanwhile. */
async function newcomer(): Promise<() => Promise<boolean>> {
  const before = new Set((await seen()).map(({ id }) => id))
  return async () => (await seen()).some(({ id }) => !before.has(id))
}
const seen = async () => (await client.call<SeenWorker[]>('GET', '/api/jobs/workers')).body

function clip(start: number, end: number, more: Partial<ClipRecipe> = {}): ClipRecipe {
  return {
    kind: 'clip',
    sequence: plainSequence({
      sourceSha256: sha256,
      size: { width: 640, height: 360 },
      cut: { timescale: 25, start, end },
      frameRate: { num: 25, den: 1 },
      loops: true,
    }),
    copyBlur: null,
    family: 'h264',
    width: 320,
    height: 180,
    noiseReduction: 0,
    goal: { kind: 'budget', bytes: 6_000 },
    encoder: x264?.name ?? null,
    ...more,
  }
}
const poster = (): PosterRecipe => {
  const { sequence: of } = clip(50, 75)
  return {
    kind: 'poster',
    sequence: of,
    copyBlur: null,
    width: 320,
    height: 180,
    picture: { kind: 'first' },
    format: 'webp',
    maxBytes: 8_000,
    shared: null,
    encoder: sharp?.name ?? null,
  }
}

/** The button under Weight; the stage may offer to render the proof at the same time. */
const RENDER = /^Render (files|\d+ missing)/

type Asked = ClipRecipe | PosterRecipe | ProbeRecipe
const ask = (...recipes: Asked[]) =>
  client.call<WorkJob[]>('POST', '/api/jobs/request', { recipes })
async function jobOf(recipe: Asked): Promise<WorkJob | undefined> {
  const keys = [recipeKey(recipe)]
  return (await client.call<WorkJob[]>('POST', '/api/jobs/look', { keys })).body[0]
}
async function madeOf(recipe: Asked): Promise<Rendition | undefined> {
  const keys = [recipeKey(recipe)]
  return (await client.call<Rendition[]>('POST', '/api/renditions/lookup', { keys })).body[0]
}
const isMade = (recipe: Asked) => async () => (await madeOf(recipe)) !== undefined
/** Until a worker is at a step of it. */
const isAt = (recipe: Asked, step: string) => async () => (await jobOf(recipe))?.step === step

/** Long enough that it can be ended in the middle. */
const long = (start: number): ClipRecipe =>
  clip(start, start + 120, {
    ...{ width: 640, height: 360, goal: { kind: 'budget', bytes: 60_000 } },
  })
/** A line to a server that can be cut. */
class Line {
  private readonly sockets = new Set<Socket>()
  private isCut = false

  private constructor(
    private readonly server: Server,
    readonly url: string,
  ) {}

  static async to(url: string): Promise<Line> {
    const { hostname: host, port } = new URL(url)
    const server = createServer()
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    const own = (server.address() as { port: number }).port
    const line = new Line(server, `http://127.0.0.1:${own}`)
    server.on('connection', (near) => {
      // Nothing is refused on a line that is dead: nothing comes back.
      if (line.isCut) return void line.hold(near)
      const far = connect(Number(port), host)
      for (const socket of [near, far]) line.hold(socket)
      near.pipe(far).pipe(near)
    })
    return line
  }

  cut(): void {
    this.isCut = true
    for (const socket of this.sockets) socket.unpipe().pause()
  }

  mend(): void {
    this.isCut = false
    for (const socket of this.sockets) socket.destroy()
  }

  async end(): Promise<void> {
    for (const socket of this.sockets) socket.destroy()
    await new Promise((resolve) => this.server.close(resolve))
  }

  private hold(socket: Socket): void {
    this.sockets.add(socket)
    socket.on('error', () => undefined)
    socket.once('close', () => this.sockets.delete(socket))
  }
}

/** Bytes of composed frames that workers hold. */
const framesOnDisk = async (): Promise<number> => {
  const held = (await readdir(folder)).filter((name) => name.startsWith('telon-frames'))
  const sizes = held.map((name) => stat(join(folder, name, 'frames')).catch(() => ({ size: 0 })))
  return (await Promise.all(sizes)).reduce((sum, { size }) => sum + size, 0)
}
const isAlive = (pid: number): boolean => existsSync(`/proc/${pid}`)

describe.skipIf(!x264 || !sharp)('a render worker', () => {
  it('makes clips, posters and probes with the encoders that are named', async () => {
    await startWorker()
    const bySetting = clip(50, 75, { goal: { kind: 'quality', ssim: 0.96 } })
    const byBrowser = clip(50, 75, { encoder: null })
    const wanted: Asked[] = [bySetting, byBrowser, poster()]
    await ask(...wanted)
    for (const each of wanted) await expect.poll(isMade(each), LONG).toBe(true)
    expect(await madeOf(bySetting)).toMatchObject({
      facts: {
        kind: 'clip',
        encoder: x264!.name,
        frames: 25,
        quality: { ssim: expect.any(Number) },
      },
    })
    expect((await madeOf(byBrowser))?.facts).toMatchObject({ kind: 'clip', encoder: null })
    expect((await madeOf(poster()))?.facts).toMatchObject({ kind: 'poster', encoder: sharp!.name })
    // What it was steered by is there for the chart, and for the next budget.
    expect((await madeOf(probeOf(bySetting)))?.facts).toMatchObject({ kind: 'probe', frames: 25 })
    // A file is there a moment before its job is done.
    await expect
      .poll(() => Promise.all(wanted.map(jobOf)), LONG)
      .toEqual([undefined, undefined, undefined])
  })

  it('tells how far it is and how long it takes, and stops when it is cancelled', async () => {
    const worker = await startWorker()
    await ask(long(0))
    await expect.poll(isAt(long(0), 'frames'), LONG).toBe(true)
    await expect.poll(async () => (await jobOf(long(0)))?.done ?? 0, LONG).toBeGreaterThan(0.05)
    expect((await jobOf(long(0)))?.secondsLeft).toBeGreaterThan(0)
    await expect.poll(isAt(long(0), 'pass'), LONG).toBe(true)
    await client.call('POST', '/api/jobs/cancel', { keys: [recipeKey(long(0))] })
    await expect.poll(() => descendants(worker.pid!, /x264/).length, LONG).toBe(0)
    // It takes the next one.
    await ask(clip(80, 90))
    await expect.poll(isMade(clip(80, 90)), LONG).toBe(true)
    expect(await madeOf(long(0))).toBeUndefined()
  })

  it('that is killed is replaced by another, which makes the whole file', async () => {
    const first = await startWorker()
    await ask(long(10))
    await expect.poll(isAt(long(10), 'pass'), LONG).toBe(true)
    const left = descendants(first.pid!, /./)
    first.kill('SIGKILL')
    const start = Date.now()
    await startWorker()
    await expect.poll(isAt(long(10), 'frames'), LONG).toBe(true)
    expect(Date.now() - start).toBeLessThan(30_000)
    await expect.poll(isMade(long(10)), LONG).toBe(true)
    // Browser and encoder of the one that was killed have ended with it.
    await expect.poll(() => left.filter(isAlive), LONG).toEqual([])
  })

  it('that loses the network half-way is replaced by another, and goes on when it is back', async () => {
    const line = await Line.to(server.url)
    const first = await startWorker({ TELON_SERVER: line.url })
    await ask(long(40))
    await expect.poll(isAt(long(40), 'pass'), LONG).toBe(true)
    const start = Date.now()
    line.cut()
    await startWorker()
    await expect.poll(isAt(long(40), 'frames'), LONG).toBe(true)
    expect(Date.now() - start).toBeLessThan(30_000)
    await expect.poll(isMade(long(40)), LONG).toBe(true)
    line.mend()
    await expect.poll(() => descendants(first.pid!, /x264/).length, LONG).toBe(0)
    // Both take jobs again.
    await ask(clip(60, 70), clip(60, 71))
    for (const each of [clip(60, 70), clip(60, 71)])
      await expect.poll(isMade(each), LONG).toBe(true)
    await line.end()
  })

  it('gives its job back at once when it is stopped, and leaves nothing behind', async () => {
    const first = await startWorker()
    await ask(long(20))
    await expect.poll(isAt(long(20), 'frames'), LONG).toBe(true)
    first.kill('SIGTERM')
    await once(first, 'exit')
    expect(await jobOf(long(20))).toMatchObject({ state: 'waiting', worker: null })
    expect((await readdir(folder)).filter((name) => name.startsWith('telon-'))).toEqual([])
    await client.call('POST', '/api/jobs/cancel', { keys: [recipeKey(long(20))] })
  })

  it('renders on after its browser was killed, and says why where its encoder was', async () => {
    const worker = await startWorker()
    await ask(long(30))
    await expect.poll(framesOnDisk, LONG).toBeGreaterThan(0)
    const browser = descendants(worker.pid!, /chromium/)
    expect(browser.length).toBeGreaterThan(0)
    browser.forEach(killAtOnce)
    await expect.poll(isAt(long(30), 'pass'), LONG).toBe(true)
    // It is given back once: another machine may have what this one lacked.
    for (let times = 0; times < 2; times++) {
      await expect.poll(() => descendants(worker.pid!, /x264/).length, SOON).toBeGreaterThan(0)
      descendants(worker.pid!, /x264/).forEach(killAtOnce)
      await expect.poll(async () => (await jobOf(long(30)))?.state, LONG).not.toBe('running')
      if (times === 0) expect(await jobOf(long(30))).toMatchObject({ state: 'waiting' })
    }
    await expect.poll(async () => (await jobOf(long(30)))?.state, LONG).toBe('failed')
    expect((await jobOf(long(30)))?.reason).toMatch(/x264/)
    // Tried again, it is made.
    await ask(long(30))
    await expect.poll(isMade(long(30)), LONG).toBe(true)
  })

  it('goes on where its browser is killed while it starts, and can be stopped then', async () => {
    const worker = await startWorker()
    await ask(clip(90, 100))
    await expect.poll(() => descendants(worker.pid!, /chromium/).length, SOON).toBeGreaterThan(0)
    descendants(worker.pid!, /chromium/).forEach(killAtOnce)
    await expect.poll(isMade(clip(90, 100)), LONG).toBe(true)
    const other = await startWorker()
    worker.kill('SIGKILL')
    await ask(clip(90, 101))
    await expect.poll(() => descendants(other.pid!, /chromium/).length, SOON).toBeGreaterThan(0)
    other.kill('SIGTERM')
    await once(other, 'exit')
    expect(await jobOf(clip(90, 101))).toMatchObject({ state: 'waiting', worker: null })
    await client.call('POST', '/api/jobs/cancel', { keys: [recipeKey(clip(90, 101))] })
  })

  it('leaves jobs alone whose encoder it does not have', async () => {
    await startWorker({ TELON_ENCODERS: 'none' })
    await ask(clip(100, 110), clip(100, 110, { encoder: null }))
    await expect.poll(isMade(clip(100, 110, { encoder: null })), LONG).toBe(true)
    expect(await jobOf(clip(100, 110))).toMatchObject({ state: 'waiting' })
    await client.call('POST', '/api/jobs/cancel', { keys: [recipeKey(clip(100, 110))] })
  })
})

describe.skipIf(!x264 || !sharp)('a designer who wants the smallest files', () => {
  it('leaves, and comes back to files that another window has seen rendering', async () => {
    const { id } = await openSmall(150)
    await startWorker()
    const browser = await launch()
    try {
      const open = async () => {
        const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
        const complaints = complaintsOf(page)
        await page.goto(`${server.url}/backdrops/${id}/weight`)
        return { page, complaints }
      }
      const one = await open()
      await one.page.getByRole('radio', { name: 'Smallest' }).click()
      await one.page.getByText(`H.264: ${x264!.name}`).waitFor()
      await one.page.getByText(/^Saved/).waitFor()
      const other = await open()
      await other.page.getByText(`H.264: ${x264!.name}`).waitFor()
      await one.page.getByRole('button', { name: RENDER }).click()
      await one.page.getByText(/You can close this page/).waitFor()
      await one.page.close()
      // The other window sees the same jobs, and how far they are.
      await other.page.getByText(/Rendered by the render worker on/).waitFor({ timeout: 60_000 })
      await other.page.getByText('All files are up to date').waitFor({ timeout: 120_000 })
      await other.page.close()
      const back = await open()
      await back.page.getByText('All files are up to date').waitFor()
      const rows = back.page.getByRole('table', { name: 'Renditions' }).getByRole('row')
      await rows
        .filter({ hasText: 'H.264' })
        .filter({ hasText: /x264, \d/ })
        .waitFor()
      await rows.filter({ hasText: 'WebP' }).filter({ hasText: 'sharp' }).waitFor()
      expect([...one.complaints, ...other.complaints, ...back.complaints]).toEqual([])
    } finally {
      await browser.close()
    }
  })

  it('sees under Work what failed, tries it again, and adds a machine that renders it', async () => {
    await ask(clip(120, 130))
    const facts = {
      id: crypto.randomUUID(),
      name: 'studio-2',
      version: await versionOf(inProject('dist')),
      encoders: [x264!.name],
    }
    await client.call('POST', '/api/jobs/hello', facts)
    const { jobId } = (await server.work.take(facts.id))!
    await client.call('POST', '/api/jobs/failed', {
      ...{ workerId: facts.id, jobId, reason: 'The disk is full.', again: false },
    })
    await server.database.query('DELETE FROM render_workers RETURNING id')
    const browser = await launch()
    try {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
      const complaints = complaintsOf(page)
      await page.goto(server.url)
      await page.getByRole('link', { name: 'Work' }).click()
      const files = page.getByRole('table', { name: 'Files' }).getByRole('row')
      const own = files.filter({ hasText: 'viaduct.mp4' }).filter({ hasText: 'H.264 320 × 180' })
      await own.getByText('The disk is full.').waitFor()
      await page.getByText(/^None is running/).waitFor()
      await own.getByRole('button', { name: 'Try again' }).click()
      await own.getByText('waiting').waitFor()

      await page.getByRole('button', { name: 'Add a machine' }).click()
      await page.getByLabel('Name of the machine').fill('Another machine')
      await page.getByRole('button', { name: 'Create token' }).click()
      const command = await page.getByRole('dialog').locator('code').innerText()
      expect(command).toContain(`npm run render-worker -- --server ${server.url} --token tln_`)
      await page.getByRole('button', { name: 'Done' }).click()
      const token = command.split(' ').at(-1)!
      const { ended } = await joinBy(token)
      await page.getByText(/^Nothing is rendered now/).waitFor({ timeout: 120_000 })
      expect(await isMade(clip(120, 130))()).toBe(true)
      const workers = page.getByRole('table', { name: 'Render workers' }).getByRole('row')
      const machine = workers.filter({ hasText: hostname() })
      await machine.filter({ hasText: /x264 [\d.]+ frames\/s/ }).waitFor({ timeout: 30_000 })
      await machine.getByText('waits for files').waitFor()

      await page.getByRole('button', { name: 'Revoke Another machine' }).click()
      await page.getByRole('button', { name: 'Revoke token' }).click()
      const [code, said] = await ended
      expect(code).toBe(2)
      expect(said).toMatch(/token/i)
      expect(said).not.toContain(token)
      expect(complaints).toEqual([])
    } finally {
      await browser.close()
    }
  })

  it('ends many files under Work at once, and by the keyboard one after another', async () => {
    const ends = [150, 151, 152, 153]
    await ask(...ends.map((end) => clip(120, end)))
    const browser = await launch()
    try {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
      const complaints = complaintsOf(page)
      await page.goto(`${server.url}/work`)
      const rows = page.getByRole('table', { name: 'Files' }).locator('tbody').getByRole('row')
      await expect.poll(() => rows.count()).toBe(4)
      await rows.nth(1).getByRole('button').focus()
      await page.keyboard.press('Enter')
      await expect.poll(() => rows.count()).toBe(3)
      const second = rows.nth(1).getByRole('button')
      await expect.poll(() => second.evaluate((it) => it === document.activeElement)).toBe(true)
      await page.keyboard.press('Enter')
      await expect.poll(() => rows.count()).toBe(2)

      await page.getByRole('button', { name: 'Cancel all' }).click()
      const dialog = page.getByRole('dialog', { name: 'Cancel 2 files?' })
      await dialog.getByRole('button', { name: 'Keep them' }).click()
      await expect.poll(() => rows.count()).toBe(2)
      await page.getByRole('button', { name: 'Cancel all' }).click()
      await dialog.getByRole('button', { name: 'Cancel files' }).click()
      await page.getByText(/^Nothing is rendered now/).waitFor()
      await page.getByText('2 files cancelled.').waitFor()
      for (const end of ends) expect(await jobOf(clip(120, end))).toBeUndefined()
      expect(complaints).toEqual([])
    } finally {
      await browser.close()
    }
  })

  it('is told why nothing happens without a worker, and can cancel', async () => {
    const { id } = await openSmall(60)
    // Of tests before, which could not say goodbye.
    await server.database.query('DELETE FROM render_workers RETURNING id')
    const worker = await startWorker()
    const browser = await launch()
    try {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
      await page.goto(`${server.url}/backdrops/${id}/weight`)
      await page.getByRole('radio', { name: 'Smallest' }).click()
      await page.getByText(`H.264: ${x264!.name}`).waitFor()
      worker.kill('SIGTERM')
      await once(worker, 'exit')
      // It said goodbye.
      expect(await seen()).toEqual([])
      await page.getByRole('button', { name: RENDER }).click()
      await page.getByText(/No render worker is running/).waitFor({ timeout: 60_000 })
      await page.getByRole('button', { name: 'Cancel (keeps finished files)' }).click()
      await page.getByRole('button', { name: RENDER }).waitFor()
      // The browser’s encoders are still there.
      await page.getByRole('radio', { name: 'Fast' }).click()
      await page.getByRole('button', { name: RENDER }).click()
      await page.getByText('All files are up to date').waitFor({ timeout: 120_000 })
      await page
        .getByText(/browser, \d/)
        .first()
        .waitFor()
    } finally {
      await browser.close()
    }
  })
})
