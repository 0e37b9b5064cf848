import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { availableParallelism, tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { ClipFacts } from '../core/api/wire'
import { packClip } from '../core/api/packClip'
import type { ClipRecipe } from '../core/backdrop/recipe'
import { toNumber } from '../core/Fraction'
import { judgeSeam } from '../core/loop/judgeSeam'
import { sequenceFrom, type FootageSequence } from '../core/kinds/footage/footageSequence'
import { trackOfStream } from '../core/media/streams/trackOfStream'
import { FAMILIES, type Family } from '../core/weight/families'
import type { Encoder, EncodeRun } from '../core/weight/native/Encoder'
import { encodeClip } from '../encoders/encodeClip'
import { installedEncoders, type InstalledEncoder } from '../encoders/installed'
import { EncoderFailure, runEncoder } from '../encoders/runEncoder'
import { spoolFrames, type SpooledFrames } from '../encoders/spoolFrames'
import { RenderBrowser } from '../headless/RenderBrowser'
import { recipeOf } from './weight'

/*
 * Telon's files by encoder programs against the programs' own two passes at equal bytes, and
 * against the browser's encoders at equal quality. Writes the tables in docs/.
 */

const TABLE = fileURLToPath(new URL('../docs/encoders-measured.md', import.meta.url))
const DEMO = [
  'rain-platform.mp4',
  'aurora-fjord.webm',
  'dusk-window.mov',
  'harbour-lights.mp4',
  'viaduct-crossing.mp4',
  'archive-reel.mp4',
]
const SECONDS = 3
/** The quality that budgets are taken from: a little below what shows no loss. */
const MIDDLE_SSIM = 0.96
const BUDGET_SHARE = 0.65
/** How often a budget is doubled that the program's own passes cannot come to. */
const MAX_DOUBLED = 2
/**
 * Attempts of the own two passes until their bytes are within this share of Telon's; what is left
 * is taken from the line through two of them.
 */
const TRIES = 2
const EQUAL = 0.005
/**
 * An own file that is further off than this is no comparison: the programs have a smallest size.
 */
const COMPARABLE = 0.1
/** What twice the bytes give where one attempt was enough: about a difference of half a percent. */
const USUAL_SLOPE = { psnr: 3, ssim: 0.01 }
const SIGNAL = new AbortController().signal

/** The programs' own command lines for two passes: their usual settings, nothing of Telon's. */
const OWN: Readonly<Record<string, (run: EncodeRun, kilobits: number) => string[]>> = {
  x264: ({ raw, statisticsOnly, statistics, output }, kilobits) => [
    ...['--demuxer', 'raw', '--input-res', `${raw.width}x${raw.height}`],
    ...['--fps', `${raw.frameRate.num}/${raw.frameRate.den}`, '--preset', 'veryslow'],
    ...['--bitrate', String(kilobits), '--pass', statisticsOnly ? '1' : '2'],
    ...['--stats', statistics, '--quiet', '--no-progress', '--output'],
    ...[statisticsOnly ? '/dev/null' : output, '-'],
  ],
  vpxenc: ({ raw, statisticsOnly, statistics, output, threads }, kilobits) => [
    ...['--codec=vp9', '--i420', '--ivf', '--quiet', '--good', '--cpu-used=1', '--passes=2'],
    ...[`--width=${raw.width}`, `--height=${raw.height}`, `--threads=${threads}`],
    ...[`--fps=${raw.frameRate.num}/${raw.frameRate.den}`, `--target-bitrate=${kilobits}`],
    ...[`--pass=${statisticsOnly ? 1 : 2}`, `--fpf=${statistics}`],
    ...[`--output=${statisticsOnly ? '/dev/null' : output}`, '-'],
  ],
  'svt-av1': ({ raw, statisticsOnly, statistics, output }, kilobits) => [
    ...['-i', 'stdin', '-w', String(raw.width), '-h', String(raw.height)],
    ...['--fps-num', String(raw.frameRate.num), '--fps-denom', String(raw.frameRate.den)],
    ...['--preset', '5', '--rc', '1', '--tbr', String(kilobits)],
    ...['--pass', statisticsOnly ? '1' : '2', '--stats', statistics, '--no-progress', '1'],
    ...['-b', statisticsOnly ? '/dev/null' : output],
  ],
}

interface Quality {
  readonly ssim: number
  readonly psnr: number
}

/** A clip with its frames on disk. */
export interface Prepared {
  readonly browser: RenderBrowser
  readonly file: string
  readonly recipe: ClipRecipe
  readonly spooled: SpooledFrames
  readonly folder: string
}

/** Seconds over which the end of a cut is blended into its start. */
const OVERLAP_SECONDS = 1

/** A loop of so many seconds, whose seam is blended: as clips are delivered. */
export async function loopRecipe(
  file: string,
  family: Family,
  seconds: number,
): Promise<ClipRecipe> {
  const recipe = await recipeOf(file, family, seconds + OVERLAP_SECONDS)
  const { sourceSha256, size, shape, loop, loops } = recipe.sequence as FootageSequence
  const seam = { kind: 'blended', overlapSeconds: OVERLAP_SECONDS } as const
  return {
    ...recipe,
    sequence: sequenceFrom({ sourceSha256, size, shape, loop: { ...loop, seam }, loops }),
  }
}

/** Bytes of all frames and quality over all frames of a file. */
async function judged(
  { browser, recipe, spooled, folder }: Prepared,
  bytes: Uint8Array,
): Promise<Quality> {
  const made = join(folder, 'judged')
  await writeFile(made, bytes)
  const { width, height } = recipe
  const { frames } = spooled.raw
  const { compared } = await browser.compare(made, spooled.path, {
    ...{ width, height, frames, max: frames },
    loops: false,
  })
  const mean = (of: (frame: Quality) => number): number =>
    compared.reduce((sum, frame) => sum + of(frame), 0) / compared.length
  return { ssim: mean(({ ssim }) => ssim), psnr: mean(({ psnr }) => psnr) }
}

/** The program's own two passes at a rate: bytes of its frames, its quality, and its seconds. */
export async function ownPasses(
  prepared: Prepared,
  encoder: Encoder,
  kilobits: number,
): Promise<Quality & { readonly bytes: number; readonly seconds: number }> {
  const { spooled, folder, recipe } = prepared
  const own: Encoder = { ...encoder, arguments: (run) => OWN[encoder.program]!(run, kilobits) }
  const run: EncodeRun = {
    raw: spooled.raw,
    effort: 'full',
    control: { kind: 'rate', bitsPerSecond: kilobits * 1000 },
    statisticsOnly: true,
    leadOut: 0,
    change: 0,
    statistics: join(folder, 'own-statistics'),
    output: join(folder, 'own-stream'),
    threads: availableParallelism(),
  }
  const start = performance.now()
  await runEncoder(own, run, spooled.path, SIGNAL)
  await runEncoder(own, { ...run, statisticsOnly: false }, spooled.path, SIGNAL)
  const seconds = (performance.now() - start) / 1000
  const track = trackOfStream(new Uint8Array(await readFile(run.output)), encoder.stream, {
    family: encoder.family,
    ...spooled.raw,
  })
  return {
    ...(await judged(prepared, packClip(recipe, track).bytes)),
    bytes: track.frames.reduce((sum, { data }) => sum + data.byteLength, 0),
    seconds,
  }
}

/** The own two passes at `bytes` of frames. */
async function ownAtBytes(
  prepared: Prepared,
  encoder: Encoder,
  bytes: number,
): Promise<Quality & { readonly bytes: number }> {
  const { frames, frameRate } = prepared.spooled.raw
  let kilobits = (bytes * 8 * toNumber(frameRate)) / frames / 1000
  const tries: Awaited<ReturnType<typeof ownPasses>>[] = []
  for (let attempt = 0; attempt < TRIES; attempt++) {
    const made = await ownPasses(prepared, encoder, Math.max(1, Math.round(kilobits))).catch(
      // Some refuse rates that are too low for them.
      (error: unknown) => {
        if (error instanceof EncoderFailure) return null
        throw error
      },
    )
    if (!made) break
    tries.push(made)
    if (Math.abs(made.bytes / bytes - 1) < EQUAL) break
    kilobits *= bytes / made.bytes
  }
  const [nearest, other] = tries.sort(
    (a, b) => Math.abs(a.bytes - bytes) - Math.abs(b.bytes - bytes),
  )
  if (!nearest) return { psnr: 0, ssim: 0, bytes: 0 }
  const octaves = other ? Math.log2(other.bytes / nearest.bytes) : 0
  const at = (of: 'psnr' | 'ssim'): number => {
    const slope = Math.abs(octaves) > 0.02 ? (other![of] - nearest[of]) / octaves : USUAL_SLOPE[of]
    return nearest[of] + slope * Math.log2(bytes / nearest.bytes)
  }
  return { psnr: at('psnr'), ssim: at('ssim'), bytes: nearest.bytes }
}

/** The seam of the composed and of the decoded loop, and what the latter looks like. */
export function seamsOf({ seam, deliveredSeam }: ClipFacts): string {
  return seam && deliveredSeam
    ? `${seam.ratio ?? '–'} / ${deliveredSeam.ratio ?? '–'}, ΔE ${deliveredSeam.worstDeltaE ?? '–'}, ${judgeSeam(deliveredSeam).visibility}`
    : '–'
}

/** Says to keep the rows of the table. */
const GO_ON = '--go-on'
const clipName = (file: string): string => basename(file).replace(/\.[^.]*$/, '')
const mean = (values: readonly number[]): number =>
  values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length)
const signed = (value: number, digits: number): string =>
  `${value > 0 ? '+' : ''}${value.toFixed(digits)}`

/** Telon's file within a budget, and the program's own at the bytes that it took. */
async function attemptAt(prepared: Prepared, installed: InstalledEncoder, budget: number) {
  const { browser, file, recipe } = prepared
  const { bytes, facts } = await encodeClip(browser, installed, file, {
    ...recipe,
    goal: { kind: 'budget', bytes: budget },
  })
  const telon = await judged(prepared, bytes)
  const data = dataBytesOf(bytes)
  const own = await ownAtBytes(prepared, installed.encoder, data)
  return { bytes, facts, telon, data, own, isEqual: Math.abs(own.bytes / data - 1) <= COMPARABLE }
}

/** Compares one clip in one format; gives the row of the table and its gains. */
async function compareClip(
  browser: RenderBrowser,
  installed: InstalledEncoder,
  file: string,
): Promise<{ readonly row: string; readonly own: number | null; readonly saved: number }> {
  const { encoder } = installed
  const folder = await mkdtemp(join(tmpdir(), 'telon-bench-'))
  try {
    const recipe = {
      ...(await loopRecipe(file, encoder.family, SECONDS)),
      encoder: installed.name,
    }
    const path = join(folder, 'frames')
    const spooled = await spoolFrames(browser, file, recipe, path, SIGNAL, () => undefined)
    const prepared = { browser, file, recipe, spooled, folder }
    // A budget that the browser's encoder fills at a middle quality, and what Telon makes of it.
    const plain = await browser.render(file, {
      ...recipe,
      encoder: null,
      goal: { kind: 'quality', ssim: MIDDLE_SSIM },
    })
    let budget = Math.round(plain.bytes.byteLength * BUDGET_SHARE)
    let attempt = await attemptAt(prepared, installed, budget)
    // A program's own rate control may have a smallest size that is more than Telon's file.
    for (let more = 0; more < MAX_DOUBLED && !attempt.isEqual; more++) {
      budget *= 2
      attempt = await attemptAt(prepared, installed, budget)
    }
    const { bytes, facts, telon, data, own, isEqual } = attempt
    const alike = await browser.render(file, {
      ...recipe,
      encoder: null,
      goal: { kind: 'quality', ssim: telon.ssim },
    })
    const saved = 1 - bytes.byteLength / alike.bytes.byteLength
    const cells = [
      clipName(file),
      installed.name,
      (bytes.byteLength / 1000).toFixed(1),
      `${signed((bytes.byteLength / budget - 1) * 100, 1)} %`,
      telon.ssim.toFixed(4),
      telon.psnr.toFixed(2),
      `${signed((own.bytes / data - 1) * 100, 1)} %`,
      isEqual ? signed(telon.psnr - own.psnr, 2) : '–',
      isEqual ? signed((telon.ssim - own.ssim) * 1000, 1) : '–',
      (alike.bytes.byteLength / 1000).toFixed(1),
      ((alike.facts as ClipFacts).quality?.ssim ?? 0).toFixed(4),
      `${(saved * 100).toFixed(0)} %`,
      facts.passes,
      seamsOf(facts),
    ]
    return { row: `| ${cells.join(' | ')} |`, own: isEqual ? telon.psnr - own.psnr : null, saved }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/** Bytes of the frames in an MP4 of Telon's: its `mdat`, which comes last. */
export function dataBytesOf(bytes: Uint8Array): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 0; at + 8 <= bytes.byteLength; at += view.getUint32(at))
    if (view.getUint32(at + 4) === 0x6d646174) return view.getUint32(at) - 8
  throw new Error('no data')
}

/** The row of a clip and an encoder in the table as it is; null where it was not made. */
function rowIn(table: string, file: string, encoder: string): string | null {
  const start = `| ${clipName(file)} | ${encoder} |`
  return table.split('\n').find((line) => line.startsWith(start)) ?? null
}

/** What a row of the table says about gains. */
function gainsIn(row: string): { readonly own: number | null; readonly saved: number } {
  const cells = row.split('|').map((cell) => cell.trim())
  const own = Number(cells[OWN_COLUMN])
  return {
    own: Number.isFinite(own) ? own : null,
    saved: Number.parseFloat(cells[SAVED_COLUMN]!) / 100,
  }
}
const [OWN_COLUMN, SAVED_COLUMN] = [8, 12]

/**
 * Measures the installed encoders on the demonstration's clips and on any given ones. It takes more
 * than an hour: with `--go-on` rows of a run that was ended are kept.
 */
export async function measureEncoders(demo: string, given: readonly string[]): Promise<void> {
  const own = given.filter((each) => each !== GO_ON)
  const table = given.includes(GO_ON) ? await readFile(TABLE, 'utf8') : ''
  const installed = await installedEncoders()
  const browser = await RenderBrowser.start()
  const rows: string[] = []
  const gains = new Map(FAMILIES.map((family) => [family, { own: [], saved: [] } as Gains]))
  for (const file of [...own, ...DEMO.map((name) => join(demo, name))])
    for (const family of FAMILIES) {
      const program = installed.find(({ encoder }) => encoder.family === family)
      if (!program || !OWN[program.encoder.program]) continue
      const known = rowIn(table, file, program.name)
      const made = known
        ? { row: known, ...gainsIn(known) }
        : await compareClip(browser, program, file)
      rows.push(made.row)
      if (made.own !== null) gains.get(family)!.own.push(made.own)
      gains.get(family)!.saved.push(made.saved)
      console.log(made.row)
      await writeFile(TABLE, tableOf(rows, gains))
    }
  await browser.stop()
}

interface Gains {
  readonly own: number[]
  readonly saved: number[]
}

function tableOf(rows: readonly string[], gains: ReadonlyMap<string, Gains>): string {
  const sums = [...gains].map(
    ([family, { own, saved }]) =>
      `| ${family} | ${own.length} of ${saved.length} | ${own.length > 0 ? `${signed(mean(own), 2)} | ${signed(Math.min(...own), 2)}` : '– | –'} | ${(mean(saved) * 100).toFixed(0)} % | ${(Math.min(...saved) * 100).toFixed(0)} % |`,
  )
  return `# Encoder programs, measured

Made by \`npm run bench -- --encoders [clips of one's own]\` on ${new Date().toISOString().slice(0, 10)}; do not edit. Loops of ${SECONDS} seconds of each clip, their ends blended over ${OVERLAP_SECONDS} s, 1280 pixels wide at most. The budget is ${BUDGET_SHARE * 100} % of what the browser's
encoder takes for SSIM ${MIDDLE_SSIM}, or twice or four times that where the program's own passes cannot be as small. *dB* and *SSIM × 1000*: Telon's file against the program's own two passes at its usual settings (x264 veryslow; vpxenc good, cpu-used 1; SVT-AV1 preset 5) at
the bytes beside, over all frames, luma. – where those are not within ${COMPARABLE * 100} %. *browser*: bytes that the browser's encoder takes for the same SSIM. *seam*: of the composed and of the decoded loop (over an ordinary step of its motion), the largest difference of a cell there (up to 2 cannot be seen), and how visible it is.

| format | compared | mean dB | worst dB | mean saved | least saved |
| --- | --- | --- | --- | --- | --- |
${sums.join('\n')}

| clip | encoder | made kB | missed | SSIM | dB | own bytes | dB against own | SSIM × 1000 against own | browser kB | its SSIM | saved | passes | seam |
| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |
${rows.join('\n')}
`
}
