import { rmSync } from 'node:fs'
import { mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** What to say where there is no room for temporary files. */
export const DISK_FULL =
  'The disk is full: sources and raw frames of a clip are kept while it is encoded. Free some room in the folder for temporary files, or set TMPDIR to another one.'

/** Whether something could not be written since the disk is full. */
export const isDiskFull = (error: unknown): boolean =>
  (error as NodeJS.ErrnoException | null)?.code === 'ENOSPC'

/** Folders of this process that are still there. */
const held = new Set<string>()
let isWatched = false

/**
 * A new folder for temporary files that is gone when this process ends, however it does: raw frames
 * of a clip take gigabytes. Of a process that was killed, the next one removes them.
 */
export async function scratchFolder(name: string): Promise<string> {
  await removeOrphans(name)
  const folder = await mkdtemp(join(tmpdir(), `${name}-${process.pid}-`))
  held.add(folder)
  if (!isWatched) process.on('exit', removeHeld)
  isWatched = true
  return folder
}

/** Removes a folder that `scratchFolder` gave. */
export async function removeScratch(folder: string): Promise<void> {
  await rm(folder, { recursive: true, force: true })
  held.delete(folder)
}

function removeHeld(): void {
  for (const folder of held) rmSync(folder, { recursive: true, force: true })
}

async function removeOrphans(name: string): Promise<void> {
  const own = new RegExp(`^${name}-(\\d+)-[A-Za-z0-9]+$`)
  for (const entry of await readdir(tmpdir())) {
    const pid = Number(own.exec(entry)?.[1] ?? 0)
    if (pid > 0 && !isAlive(pid)) await rm(join(tmpdir(), entry), { recursive: true, force: true })
  }
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    // Whose process it is does not matter.
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}
