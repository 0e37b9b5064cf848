import { createReadStream, existsSync, statSync } from 'node:fs'
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { extname, join, resolve, sep } from 'node:path'
import type { Browser, Page } from 'playwright-core'
import type { RenditionFacts } from '../core/api/wire'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import type { ProbeRun } from '../core/backdrop/measureAdvice'
import type { ClipRecipe, ProbeRecipe, Recipe } from '../core/backdrop/recipe'
import type { Sources } from '../core/kinds/Kind'
import { SCREENS, type ScreenName } from '../core/fit/screens'
import type { FootageSequence } from '../core/kinds/footage/footageSequence'
import { worstMoments, type ContrastRow, type WorstMoment } from '../core/legibility/worstOf'
import type { CutMotion } from '../core/loop/chooseOverlap'
import type { LoopRange } from '../core/loop/findLoops'
import type { Analysis } from '../core/material/Analysis'
import type { ProbeFacts } from '../core/weight/ProbeFacts'
import { inProject } from '../node/projectRoot'
import { heldClock } from './heldClock'
import type { MeasuredContrasts, PlainLoop } from '../studio/harness/harness'
import type { ShownPage } from '../studio/harness/shownPage'
import type { Comparison, ComparisonOrder } from '../studio/worker/jobs/compareClip'
import type { PlanesRecipe, SentPlanes } from '../studio/worker/jobs/sendPlanes'
import type { ColourFacts } from '../core/media/MediaFile'
import type { ContrastOrder } from '../studio/worker/contrast/ContrastOrder'
import type { ClipPlace, Places } from '../studio/worker/sources'

const DIST = inProject('dist')
const TYPES: Readonly<Record<string, string>> = {
  '.html': 'text/html',
  '.js': 'text/javascript',
  '.css': 'text/css',
  '.webm': 'video/webm',
  '.mp4': 'video/mp4',
  '.svg': 'image/svg+xml',
}

const POSTER_TYPES: Readonly<Record<string, string>> = {
  '.jpg': 'image/jpeg',
  '.png': 'image/png',
  '.webp': 'image/webp',
  '.avif': 'image/avif',
  '.svg': 'image/svg+xml',
}

/** How Debian's Chromium is started everywhere here: with its sandbox, which root cannot have. */
export const CHROMIUM = {
  executablePath: '/usr/bin/chromium',
  args: [
    ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
} as const

/** What a render gives. */
export interface Rendered {
  readonly bytes: Buffer
  readonly facts: RenditionFacts
}

/** A browser is there, with its page, within this: seconds on a machine that does nothing else. */
const START_LIMIT_MS = 60_000

/** Rejects where work takes too long or is no longer wanted. */
async function within<T>(
  limitMs: number,
  signal: AbortSignal | null,
  work: () => Promise<T>,
): Promise<T> {
  const limit = AbortSignal.timeout(limitMs)
  const ended = AbortSignal.any(signal ? [limit, signal] : [limit])
  const done = new AbortController()
  const isOver = new Promise<never>((_, reject) => {
    const say = (): void => reject(new Error('it takes too long'))
    if (ended.aborted) say()
    ended.addEventListener('abort', say, { signal: done.signal })
  })
  try {
    return await Promise.race([work(), isOver])
  } finally {
    done.abort()
  }
}

async function closeServer(server: Server): Promise<void> {
  server.closeAllConnections()
  await new Promise((resolve) => server.close(resolve))
}

/** The message of an error from the page, without Playwright's prefix and the page's stack. */
function sentenceOf(error: unknown): string {
  const message = error instanceof Error ? error.message : String(error)
  return message.split('\n')[0]!.replace(/^page\.evaluate: (\w*Error: )?/, '')
}

export type { PlanesRecipe, SentPlanes } from '../studio/worker/jobs/sendPlanes'

/** The colours of planes, as code points of ISO/IEC 23091-2. */
export type PlanesColour = Omit<ColourFacts, 'fullRange'>

/** Takes frame `k` of a clip: I420 of limited range. The next one comes when it resolves. */
export type TakePlanes = (k: number, planes: Buffer, colour: PlanesColour) => Promise<void>

/** A picture that is encoded outside of the browser: RGBA, quality from 0 (coarsest) to 1. */
export interface PictureToEncode {
  readonly format: 'avif' | 'webp' | 'jpeg'
  readonly width: number
  readonly height: number
  readonly quality: number
  readonly pixels: Buffer
}
export type EncodePicture = (picture: PictureToEncode) => Promise<Buffer>

/** The file that is worked on; or several, by the SHA-256 of each. */
export type InputFiles = string | Readonly<Record<string, string>>

/**
 * A headless Chromium with the studio's own media worker in it, fed from files of this machine by a
 * server on loopback.
 */
export class RenderBrowser {
  private readonly server: Server
  private readonly browser: Browser
  readonly page: Page
  private readonly files = new Map<string, string>()
  private readonly folders = new Map<string, string>()
  private readonly results = new Map<string, Buffer>()
  private onProgress: (done: number, pass: number) => void = () => undefined
  private lastResult = 0
  private hasCrashed = false
  private readonly takers = new Map<string, TakePlanes>()
  /** Encodes pictures whose recipe names an encoder; null where there is none. */
  pictures: EncodePicture | null = null

  /** `page.evaluate` whose errors have the page's message alone. */
  private readonly ask: Page['evaluate']

  private constructor(server: Server, browser: Browser, page: Page) {
    this.server = server
    this.browser = browser
    this.page = page
    this.ask = ((work: never, arg: never) =>
      page.evaluate(work, arg).catch((cause: unknown) => {
        throw new Error(sentenceOf(cause), { cause })
      })) as Page['evaluate']
  }

  /**
   * Starts server and browser and opens `page` of the built files. Rejects where the browser ends
   * meanwhile, takes too long or `signal` is aborted; nothing is left of it then.
   */
  static async start(
    path = '/studio/harness.html',
    signal: AbortSignal | null = null,
  ): Promise<RenderBrowser> {
    let self: RenderBrowser | null = null
    const server = createServer((request, response) => self?.answer(request, response))
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    const address = server.address()
    const port = typeof address === 'object' && address ? address.port : 0
    let browser: Browser | null = null
    const end = async (): Promise<void> => {
      await browser?.close().catch(() => undefined)
      await closeServer(server)
    }
    try {
      signal?.throwIfAborted()
      // Loading it takes longer than most commands of the command line do.
      const { chromium } = await import('playwright-core')
      browser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
      // Some of what follows waits for ever where a process of the browser has ended.
      return await within(START_LIMIT_MS, signal, async () => {
        const opened = await browser!.newPage()
        self = new RenderBrowser(server, browser!, opened)
        await self.open(`http://127.0.0.1:${port}${path}`)
        return self
      })
    } catch (cause) {
      await end()
      signal?.throwIfAborted()
      throw new Error(`Chromium does not start: ${sentenceOf(cause)}`, { cause })
    }
  }

  private async open(address: string): Promise<void> {
    const { page } = this
    page.on(
      'console',
      (message) => message.type() === 'error' && process.stderr.write(`${message.text()}\n`),
    )
    page.once('crash', () => (this.hasCrashed = true))
    await page.exposeFunction('telonProgress', (done: number, pass: number) =>
      this.onProgress(done, pass),
    )
    await page.addInitScript(heldClock)
    await page.goto(address)
  }

  /** Whether the browser and its page are still there. */
  get isRunning(): boolean {
    return this.browser.isConnected() && !this.page.isClosed() && !this.hasCrashed
  }

  /** Makes a file of this machine readable for the page; returns its address. */
  lend(file: string): string {
    const url = `/clip/${this.files.size}`
    this.files.set(url, file)
    return url
  }

  /**
   * Renders a recipe from a clip of this machine. Throws an Error with the worker's message where
   * it cannot be done.
   */
  async render(
    file: InputFiles,
    recipe: Recipe,
    onProgress: (done: number, pass: number) => void = () => undefined,
    probe: ProbeFacts | null = null,
  ): Promise<Rendered> {
    this.onProgress = onProgress
    const place = this.placesOf(file)
    const resultUrl = `/result/${++this.lastResult}`
    const facts = await this.ask(
      ([at, what, to, known]) => window.telonRender(at, what, to, known),
      [place, recipe, resultUrl, probe] as const,
    )
    return { bytes: this.takeResult(resultUrl), facts }
  }

  /** Short encodes of a clip of this machine: how its bytes and its quality hang together. */
  async probe(
    file: InputFiles,
    recipe: ProbeRecipe,
    onProgress: (done: number) => void = () => undefined,
  ): Promise<ProbeFacts> {
    this.onProgress = onProgress
    return (await this.probeAt(file, recipe, null, [])).facts
  }

  /**
   * Short encodes at settings of one's own (null for the usual ones), also looked at behind scrims
   * that leave so much contrast.
   */
  probeAt(
    file: InputFiles,
    recipe: ProbeRecipe,
    settings: readonly number[] | null,
    contrasts: readonly number[],
  ): Promise<ProbeRun> {
    return this.ask(([at, what, which, left]) => window.telonProbe(at, what, which, left), [
      this.placesOf(file),
      recipe,
      settings,
      contrasts,
    ] as const)
  }

  /**
   * Measures a source of this machine as the shelf does. Vector drawings are not measured: their
   * `analysis` is null.
   */
  async analyse(
    file: string,
  ): Promise<{ analysis: Analysis | null; strip: Buffer | null; cells: number }> {
    const mime = POSTER_TYPES[extname(file)] ?? null
    if (mime === 'image/svg+xml') return { analysis: null, strip: null, cells: 0 }
    const resultUrl = `/result/${++this.lastResult}`
    const place = { url: this.lend(file), bytes: statSync(file).size }
    const { analysis, cells } = await this.ask(
      ([at, type, to]) => window.telonAnalyse(at, type, to),
      [place, mime, resultUrl] as const,
    )
    return { analysis, strip: this.takeResult(resultUrl), cells }
  }

  /**
   * The best loops of a clip of this machine, best first, and how long the search took with and
   * without describing the clip.
   */
  async findLoops(
    file: string,
    range: LoopRange,
    count: number,
    onProgress: (done: number, phase: number) => void = () => undefined,
  ): Promise<{ loops: PlainLoop[]; seconds: number; searchSeconds: number }> {
    this.onProgress = onProgress
    return this.ask(([at, where, max]) => window.telonFindLoops(at, where, max), [
      this.placeOf(file),
      range,
      count,
    ] as const)
  }

  /** A composed output frame of a loop: RGBA. */
  async compose(
    file: InputFiles,
    recipe: Pick<ClipRecipe, 'sequence' | 'width' | 'height' | 'copyBlur'>,
    number: number,
  ): Promise<{ pixels: Buffer; width: number; height: number }> {
    const resultUrl = `/result/${++this.lastResult}`
    const size = await this.ask(([at, what, k, to]) => window.telonCompose(at, what, k, to), [
      this.placesOf(file),
      recipe,
      number,
      resultUrl,
    ] as const)
    return { pixels: this.takeResult(resultUrl), ...size }
  }

  /** Small pictures of source frames: 64 × 36 RGBA each. */
  async frames(
    file: string,
    numbers: readonly number[],
    how: 'in order' | 'exact' | 'proxy',
  ): Promise<Buffer[]> {
    const resultUrl = `/result/${++this.lastResult}`
    await this.ask(([at, which, way, to]) => window.telonFrames(at, which, way, to), [
      this.placeOf(file),
      numbers,
      how,
      resultUrl,
    ] as const)
    const all = this.takeResult(resultUrl)
    return numbers.map((_, index) => all.subarray(index * 64 * 36 * 4, (index + 1) * 64 * 36 * 4))
  }

  /**
   * The worst moments of the copy of a document on all screens; null where its frames are no
   * sequence (what a style places or moves). `file` is null for paints.
   */
  contrasts(
    file: InputFiles | null,
    document: BackdropDocument,
    known: Sources,
    onProgress: (done: number) => void = () => undefined,
  ): Promise<MeasuredContrasts | null> {
    this.onProgress = onProgress
    return this.ask(([at, what, from]) => window.telonContrasts(at, what, from), [
      file === null ? {} : this.placesOf(file),
      document,
      [...known],
    ] as const)
  }

  /** What the page of a lent folder shows behind its copy on a screen. */
  shownPage(address: string, screen: ScreenName): Promise<ShownPage> {
    return this.ask(([at, name]) => window.telonPage(at, name), [address, screen] as const)
  }

  /**
   * The worst moments of the copy of a lent folder's page on a screen, in pictures of the page
   * itself: for what is no clip or picture alone. `period` is after how long its live particles
   * repeat.
   */
  async heldMoments(
    address: string,
    screen: ScreenName,
    period: number | null,
  ): Promise<WorstMoment[]> {
    await this.page.setViewportSize(SCREENS[screen])
    const { windows, texts, times } = await this.ask(
      ([at, name, every]) => window.telonHeldPage(at, name, every),
      [address, screen, period] as const,
    )
    const rows: ContrastRow[] = []
    for (const seconds of times) {
      await this.ask((when) => window.telonHold(when), seconds)
      const parts = []
      for (let nth = 0; nth < windows; nth++) {
        const { from, ...clip } = await this.ask((which) => window.telonScrollHeld(which), nth)
        if (clip.height <= 0) continue
        parts.push({ from, picture: (await this.page.screenshot({ clip })).toString('base64') })
      }
      rows.push(
        await this.ask(([shots, when]) => window.telonMeasureHeld(shots, when), [
          parts,
          seconds,
        ] as const),
      )
    }
    return worstMoments(screen, texts, rows)
  }

  /** The worst moments of copy in front of frames. */
  measure(order: ContrastOrder): Promise<MeasuredContrasts> {
    return this.ask((what) => window.telonMeasure(what), order)
  }

  /**
   * Makes a folder of this machine readable for the page, under an address of its own and, where
   * its files are written for one, under their base address; returns the first.
   */
  async lendFolder(folder: string, baseUrl: string): Promise<string> {
    const url = `/folder/${this.folders.size}`
    this.folders.set(url, resolve(folder))
    if (baseUrl === '') return url
    const { href } = new URL(baseUrl, this.page.url())
    await this.page.route(`${href}**`, async (route) => {
      const path = new URL(route.request().url()).pathname.slice(new URL(href).pathname.length)
      const file = this.lentFile(`${url}/${path}`)
      await (file ? route.fulfill({ path: file }) : route.fulfill({ status: 404 }))
    })
    return url
  }

  /**
   * Composed frames of a clip, one after another. Throws an Error with the worker's message where
   * they cannot be made, and what `take` throws.
   */
  async planes(file: InputFiles, recipe: PlanesRecipe, take: TakePlanes): Promise<SentPlanes> {
    const to = `/planes/${++this.lastResult}`
    let refused: { readonly why: unknown } | null = null
    this.takers.set(to, async (...frame) => {
      try {
        await take(...frame)
      } catch (why) {
        refused ??= { why }
        throw why
      }
    })
    try {
      return await this.ask(([at, what, where]) => window.telonPlanes(at, what, where), [
        this.placesOf(file),
        recipe,
        to,
      ] as const)
    } catch (error) {
      throw (refused as { readonly why: unknown } | null)?.why ?? error
    } finally {
      this.takers.delete(to)
    }
  }

  /** Compares a finished clip with the raw frames that went in; both are files of this machine. */
  compare(
    clip: string,
    planes: string,
    order: Omit<ComparisonOrder, 'clip' | 'planes'>,
  ): Promise<Comparison> {
    return this.ask((what) => window.telonCompare(what), {
      ...order,
      clip: this.lentPlace(clip),
      planes: this.lentPlace(planes),
    })
  }

  /** A file that changes between two calls: it has an address of its own. */
  private lentPlace(file: string): { url: string; bytes: number } {
    return { url: this.lend(file), bytes: statSync(file).size }
  }

  /** The motion of a cut, frame by frame. */
  cutMotion(file: string, sequence: FootageSequence): Promise<CutMotion> {
    return this.ask(([at, what]) => window.telonCutMotion(at, what), [
      this.placeOf(file),
      sequence,
    ] as const)
  }

  private placesOf(files: InputFiles): ClipPlace | Places {
    return typeof files === 'string'
      ? this.placeOf(files)
      : Object.fromEntries(
          Object.entries(files).map(([sha256, file]) => [sha256, this.placeOf(file)]),
        )
  }

  private placeOf(file: string): { url: string; bytes: number } {
    const known = [...this.files].find(([, held]) => held === file)?.[0]
    return { url: known ?? this.lend(file), bytes: statSync(file).size }
  }

  /** The bytes that the page posted to an address under `/result/`. */
  takeResult(url: string): Buffer {
    const bytes = this.results.get(url)
    this.results.delete(url)
    if (!bytes) throw new Error(`nothing was posted to ${url}`)
    return bytes
  }

  async stop(): Promise<void> {
    await this.browser.close()
    await closeServer(this.server)
  }

  private answer(request: IncomingMessage, response: ServerResponse): void {
    const path = new URL(request.url ?? '/', 'http://localhost').pathname
    if (request.method === 'POST' && path.startsWith('/result/')) {
      const parts: Buffer[] = []
      request.on('data', (part: Buffer) => parts.push(part))
      request.on('end', () => {
        this.results.set(path, Buffer.concat(parts))
        response.end()
      })
      return
    }
    if (request.method === 'POST' && path.startsWith('/planes/')) {
      this.takeFrame(request, response)
      return
    }
    if (request.method === 'POST' && path.startsWith('/encode/')) {
      this.encodePicture(request, response)
      return
    }
    const lent = this.files.get(path) ?? this.lentFile(path)
    const file = lent ?? this.builtFile(path)
    if (!file) {
      response.writeHead(404).end()
      return
    }
    const size = statSync(file).size
    const range = /^bytes=(\d+)-(\d+)$/.exec(request.headers.range ?? '')
    const [start, end] = range
      ? [Number(range[1]), Math.min(size - 1, Number(range[2]))]
      : [0, size - 1]
    response.writeHead(range ? 206 : 200, {
      'Content-Type': TYPES[extname(file)] ?? 'application/octet-stream',
      'Content-Length': end - start + 1,
      ...(range ? { 'Content-Range': `bytes ${start}-${end}/${size}` } : {}),
    })
    createReadStream(file, { start, end }).pipe(response)
  }

  private encodePicture(request: IncomingMessage, response: ServerResponse): void {
    const { pathname, searchParams } = new URL(request.url ?? '/', 'http://localhost')
    const format = pathname.slice('/encode/'.length) as PictureToEncode['format']
    const [width, height, quality] = ['width', 'height', 'quality'].map((name) =>
      Number(searchParams.get(name)),
    )
    const parts: Buffer[] = []
    request.on('data', (part: Buffer) => parts.push(part))
    request.on('end', () => {
      const pixels = Buffer.concat(parts)
      const order = { format, width: width!, height: height!, quality: quality!, pixels }
      const encoded = this.pictures?.(order) ?? Promise.reject(new Error('no encoder'))
      encoded.then(
        (file) => response.end(file),
        (error: unknown) => response.writeHead(409).end(String(error)),
      )
    })
  }

  private takeFrame(request: IncomingMessage, response: ServerResponse): void {
    const { pathname, searchParams } = new URL(request.url ?? '/', 'http://localhost')
    const [, to, number] = /^(\/planes\/\d+)\/(\d+)$/.exec(pathname) ?? []
    const take = this.takers.get(to ?? '')
    const codes = ['primaries', 'transfer', 'matrix'].map((name) => Number(searchParams.get(name)))
    const parts: Buffer[] = []
    request.on('data', (part: Buffer) => parts.push(part))
    request.on('end', () => {
      const colour = { primaries: codes[0]!, transfer: codes[1]!, matrix: codes[2]! }
      const taken = take?.(Number(number), Buffer.concat(parts), colour) ?? Promise.reject()
      taken.then(
        () => response.end(),
        () => response.writeHead(409).end(),
      )
    })
  }

  /** A file of a lent folder, and of nowhere else. */
  private lentFile(path: string): string | null {
    const [, , number, ...rest] = path.split('/')
    const folder = this.folders.get(`/folder/${number}`)
    if (!folder) return null
    let file: string
    try {
      file = resolve(folder, ...rest.map(decodeURIComponent))
    } catch {
      // A page may ask for an address that is none.
      return null
    }
    const isWithin = file.startsWith(folder + sep) && existsSync(file) && statSync(file).isFile()
    return isWithin ? file : null
  }

  /**
   * Pages are served under /studio/, /demo/ and /bench/, and so are the files they request by
   * absolute address.
   */
  private builtFile(path: string): string | null {
    const places = path.startsWith('/assets/')
      ? ['studio', 'demo', 'bench'].map((place) => join(DIST, place, path))
      : [join(DIST, path)]
    return (
      places.find(
        (place) => place.startsWith(DIST) && existsSync(place) && statSync(place).isFile(),
      ) ?? null
    )
  }
}
