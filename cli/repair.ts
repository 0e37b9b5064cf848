import { open, realpath, rename, rm } from 'node:fs/promises'
import { extname } from 'node:path'
import { describeContainerError } from '../core/media/describeContainerError'
import { planRepair } from '../core/media/repair/repairFile'
import { bytesOfPlan, type RepairOrder } from '../core/media/repair/RepairPlan'
import { UsageError } from './DeliverOptions'
import { openFileSource } from '../headless/fileSource'
import { fileProblem } from './probe'

/** What `telon repair` takes. Times in seconds of the clip. */
export interface RepairOptions {
  readonly out: string
  /** An MP4 or MOV is always written with its index first; the option only says so. */
  readonly indexFirst: boolean
  readonly sound: boolean
  readonly start?: number
  readonly end?: number
  readonly strip: boolean
}

const CONTAINERS: Readonly<Record<string, RepairOrder['container']>> = {
  '.mp4': 'mp4',
  '.m4v': 'mp4',
  '.mov': 'mov',
  '.webm': 'webm',
  '.mkv': 'mkv',
}

/**
 * Writes a repaired copy of a clip; coded frames are copied as they are. Throws UsageError for
 * arguments that make no sense, Error with a sentence otherwise.
 */
export async function repair(
  file: string,
  options: RepairOptions,
  tell: (line: string) => void,
): Promise<void> {
  const container = CONTAINERS[extname(options.out).toLowerCase()]
  if (!container)
    throw new UsageError(
      'The name of the output must end in .mp4, .mov, .webm or .mkv: it says which container is written.',
    )
  if (options.start !== undefined && options.end !== undefined && options.end <= options.start)
    throw new UsageError('The end must lie after the start.')
  if (await same(file, options.out))
    throw new UsageError('The output would overwrite the file that is read. Give another name.')
  const source = await openFileSource(file).catch((error: unknown) => {
    throw new UsageError(fileProblem(error)?.message ?? String(error))
  })
  // Written next to its destination and moved there at the end, so that an existing file stays
  // until the new one is complete.
  const draft = `${options.out}.part`
  try {
    const toMs = (value: number | undefined): number | null =>
      value === undefined ? null : value * 1000
    const plan = await planRepair(source, {
      container,
      keepSound: options.sound,
      startMs: toMs(options.start),
      endMs: toMs(options.end),
      strip: options.strip,
    })
    if (!plan.ok) throw new Error(describeContainerError(plan.error))
    const target = await open(draft, 'w')
    try {
      for await (const bytes of bytesOfPlan(plan.value, source)) await target.write(bytes)
    } finally {
      await target.close()
    }
    await rename(draft, options.out)
    if (options.start !== undefined)
      tell(
        `starts at ${(plan.value.startMs / 1000).toFixed(3)} s, the key frame at or before ${options.start} s`,
      )
    tell(
      `${options.out}: ${plan.value.bytes} bytes, ${source.size - plan.value.bytes >= 0 ? 'saves' : 'adds'} ${Math.abs(source.size - plan.value.bytes)}`,
    )
  } finally {
    await rm(draft, { force: true })
    await source.close()
  }
}

async function same(one: string, other: string): Promise<boolean> {
  const real = (path: string): Promise<string> => realpath(path).catch(() => path)
  return (await real(one)) === (await real(other))
}
