import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { fail, ok, type Result } from '../../result'
import { readMedia } from '../readMedia'
import { repairIsobmff } from './repairIsobmff'
import { repairMatroska } from './repairMatroska'
import type { RepairOrder, RepairPlan } from './RepairPlan'
import { movieFromMatroska } from './movieFromMatroska'

/**
 * Plans a new file from an old one without encoding anything: index first, sound off, a cut at key
 * frames, another container, metadata off. Errors: those of reading, `media/repair-unsupported`
 * where coded frames cannot be carried over, `media/repair-range` for an empty cut.
 */
export async function planRepair(
  source: ByteSource,
  order: RepairOrder,
): Promise<Result<RepairPlan, ContainerError>> {
  const read = await readMedia(source)
  if (!read.ok) return read
  const file = read.value
  const from =
    file.container === 'mp4' || file.container === 'mov'
      ? 'isobmff'
      : file.container === 'webm' || file.container === 'mkv'
        ? 'matroska'
        : null
  const to = order.container === 'mp4' || order.container === 'mov' ? 'isobmff' : 'matroska'
  try {
    if (from === null)
      throw new ContainerError('media/repair-unsupported', {
        subject: `frames of ${file.video.codec.name}`,
      })
    if (from === 'isobmff' && to === 'isobmff') return ok(await repairIsobmff(source, file, order))
    if (to === 'matroska') return ok(await repairMatroska(source, file, order))
    return ok(await movieFromMatroska(source, file, order))
  } catch (error) {
    if (error instanceof RangeError)
      return fail(new ContainerError('media/repair-range', { cause: error }))
    if (error instanceof ContainerError) return fail(error)
    throw error
  }
}
