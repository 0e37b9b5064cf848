import { spawn, spawnSync } from 'node:child_process'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The project's folder. */
export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..', '..')
/** What the scripts keep between runs; never committed. */
export const STATE = join(ROOT, '.telon')

/** Runs a command to its end. Throws with its output unless it succeeds. */
export function run(command, args, options = {}) {
  const done = spawnSync(command, args, {
    cwd: ROOT,
    encoding: 'utf8',
    maxBuffer: 64 * 1024 * 1024,
    ...options,
  })
  if (done.error) throw done.error
  if (done.status !== 0)
    throw new Error(
      `${command} ${args.join(' ')} failed:\n${done.stderr ?? ''}${done.stdout ?? ''}`,
    )
  return done.stdout ?? ''
}

/** Runs a command with this terminal's streams; resolves to its exit code. */
export function attach(command, args, env = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, {
      cwd: ROOT,
      stdio: 'inherit',
      env: { ...process.env, ...env },
    })
    for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal))
    child.on('exit', (code) => resolve(code ?? 1))
  })
}

/** Whether a program can be started from the PATH. */
export function has(program) {
  return spawnSync('sh', ['-c', `command -v ${program}`]).status === 0
}

/** Says what is being done, on stderr, so that output stays for results. */
export function say(text) {
  process.stderr.write(`${text}\n`)
}
