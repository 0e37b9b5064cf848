import { execFile } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdir, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import { expect, it } from 'vitest'
import { removeScratch, scratchFolder } from './scratchFolder'

const NAME = `telon-scratch${process.pid}`
/** The number of a process that has ended. */
const endedPid = async (): Promise<number> => {
  const { stdout } = await promisify(execFile)('sh', ['-c', 'echo $$'])
  return Number(stdout)
}

it('is removed on request, with all that is in it', async () => {
  const folder = await scratchFolder(NAME)
  await writeFile(join(folder, 'frames'), 'x')
  await removeScratch(folder)
  expect(existsSync(folder)).toBe(false)
})
it('takes away what a killed process has left, and nothing of one that lives', async () => {
  const [left, own] = [
    join(tmpdir(), `${NAME}-${await endedPid()}-abc`),
    join(tmpdir(), `${NAME}-${process.ppid}-abc`),
  ]
  await mkdir(join(left, 'deep'), { recursive: true })
  await mkdir(own)
  await removeScratch(await scratchFolder(NAME))
  expect([existsSync(left), existsSync(own)]).toEqual([false, true])
  await removeScratch(own)
})
it('is gone when its process exits in the middle of its work', async () => {
  const module = fileURLToPath(new URL('./scratchFolder.ts', import.meta.url))
  const work = `import(${JSON.stringify(module)}).then(async ({ scratchFolder }) => {
    process.stdout.write(await scratchFolder('${NAME}'), () => process.exit(130))
  })`
  const ended = await promisify(execFile)(process.execPath, ['--import', 'tsx', '-e', work], {
    cwd: dirname(dirname(module)),
  }).catch((error: { code: number; stdout: string }) => error)
  expect(ended).toMatchObject({ code: 130 })
  expect(ended.stdout).toContain(NAME)
  expect(existsSync(ended.stdout)).toBe(false)
})
