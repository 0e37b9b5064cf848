import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createCluster, isRunning, postgresBin, startCluster, urlOf } from './postgres.mjs'
import { has, ROOT, run, say, STATE } from './run.mjs'

const digest = (text) => createHash('sha256').update(text).digest('hex')

/** Installs packages when there are none or the lock file has changed since. */
export function ensureModules() {
  const stamp = join(ROOT, 'node_modules', '.telon-lock')
  const lock = digest(readFileSync(join(ROOT, 'package-lock.json')))
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  say('Installing packages …')
  run('npm', ['ci', '--no-audit', '--no-fund'])
  writeFileSync(stamp, lock)
}

let updated = false

/** Installs Debian packages as root; otherwise says which command an administrator should run. */
function apt(packages, what) {
  const command = `apt-get install -y ${packages.join(' ')}`
  if (process.getuid?.() !== 0 || !has('apt-get')) {
    throw new Error(
      `${what} is not installed. Install it first, for instance with:\n  sudo ${command}`,
    )
  }
  say(`Installing ${what} …`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  if (!updated) run('apt-get', ['update', '-qq'], { env })
  updated = true
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], { env })
}

/** Installs Debian's Chromium, which the tests, `telon deliver` and the demo generator need. */
export function ensureChromium() {
  if (!existsSync('/usr/bin/chromium')) apt(['chromium', 'fonts-dejavu-core'], 'Chromium')
}

/**
 * Installs Chromium where that is possible. Without it everything but `telon deliver` works, so a
 * failure is one line.
 */
export function tryChromium() {
  try {
    ensureChromium()
  } catch {
    say(
      'Chromium is not installed, so `telon deliver` will not work. To install it: sudo apt-get install -y chromium',
    )
  }
}

/**
 * Installs Debian's Chromium without a window system, whose pages open in a third of the time. The
 * browser tests use it where it can be installed, else the complete Chromium.
 */
export function tryHeadlessShell() {
  try {
    if (!existsSync('/usr/bin/chromium-headless-shell'))
      apt(['chromium-headless-shell'], 'the headless Chromium')
  } catch {
    say('chromium-headless-shell is not installed: the browser tests take longer.')
  }
}

/**
 * Installs Debian's Firefox with its decoders for H.264, in which the tests play what is delivered
 * and open the workbench. Where it cannot be installed those tests are left out.
 */
export function tryFirefox() {
  try {
    if (!existsSync('/usr/bin/firefox-esr')) apt(['firefox-esr', 'libavcodec-extra'], 'Firefox')
  } catch {
    say('Firefox is not installed: the tests in it are left out. sudo apt-get install firefox-esr')
  }
}

/** Encoder programs, by the Debian packages that they come in. */
const ENCODERS = {
  x264: 'x264',
  vpxenc: 'vpx-tools',
  SvtAv1EncApp: 'svt-av1',
}

/**
 * Installs encoder programs where that is possible. Without them the browser encodes, so a failure
 * is one line.
 */
export function tryEncoders() {
  const missing = Object.entries(ENCODERS).flatMap(([command, name]) => (has(command) ? [] : name))
  if (missing.length === 0) return
  try {
    apt(missing, 'encoder programs')
  } catch {
    say(
      `Encoder programs are missing, so final files are about a third larger than they could be. To install them: sudo apt-get install -y ${missing.join(' ')}`,
    )
  }
}

/** The folders that the build is made from. */
const BUILT = [
  ...['core', 'studio', 'runtime', 'server', 'cli', 'headless', 'encoders', 'render-worker'],
  ...['demo', 'node'],
]

/** Builds what is out of date by the digest of its sources. */
export function ensureBuild() {
  const sources = [...BUILT, 'package-lock.json']
    .flatMap(listFiles)
    .filter((file) => !file.endsWith('.test.ts') && !/\.(mp4|mov|webm)$/.test(file))
  const print = digest(sources.map((file) => `${file}:${digest(readFileSync(file))}`).join('\n'))
  const stamp = join(ROOT, 'dist', '.telon-sources')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === print) return
  say('Building …')
  run('npm', ['run', '-s', 'build'], { env: { ...process.env, TELON_BUILD: print.slice(0, 12) } })
  writeFileSync(stamp, print)
}

function listFiles(place) {
  const path = join(ROOT, place)
  if (!existsSync(path)) return []
  if (statSync(path).isFile()) return [path]
  return readdirSync(path, { recursive: true })
    .map((name) => join(path, name))
    .filter((file) => statSync(file).isFile())
    .sort()
}

/**
 * The address of a running PostgreSQL: `DATABASE_URL` when set, else a cluster of the project's own
 * on loopback, made and started when needed. Its data lie where the user who runs it can reach
 * them.
 */
export async function ensureDatabase() {
  if (process.env.DATABASE_URL) return process.env.DATABASE_URL
  if (!existsSync(postgresBin())) apt(['postgresql'], 'PostgreSQL')
  mkdirSync(STATE, { recursive: true })
  const notes = join(STATE, 'postgres.json')
  const noted = existsSync(notes) ? JSON.parse(readFileSync(notes, 'utf8')) : null
  // The notes may have come along to a machine that the data have not.
  const kept = noted && existsSync(noted.data) ? noted : await makeCluster(notes)
  if (!isRunning(kept)) startCluster(kept)
  return urlOf(kept)
}

async function makeCluster(notes) {
  say('Making a PostgreSQL cluster …')
  const cluster = await createCluster(
    `telon-${digest(ROOT).slice(0, 12)}-${Date.now().toString(36)}`,
  )
  writeFileSync(notes, JSON.stringify(cluster), { mode: 0o600 })
  return cluster
}
