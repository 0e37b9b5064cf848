import type { Repaired, RepairRequest, SourceCard } from '../../core/api/wire'
import { isRepairable } from '../../core/material/findings'
import { api } from '../api/client'
import { useNotices } from '../state/noticeStore'
import { formatBytes } from '../ui/format'

/** A repair that takes one click. */
export interface RepairOffer {
  readonly request: RepairRequest
  readonly label: string
  /** What it brings. */
  readonly note: string
}

/** Repairs of a source as a whole, without encoding anything again. */
export function repairOffers({ facts }: Pick<SourceCard, 'facts'>): RepairOffer[] {
  if (facts.kind === 'image' || !isRepairable(facts)) return []
  const { family } = facts.video
  const isobmff = facts.container === 'mp4' || facts.container === 'mov'
  const other = isobmff
    ? family === 'vp9' || family === 'av1' || family === 'vp8'
      ? 'webm'
      : null
    : family === 'h264' || family === 'vp9' || family === 'av1'
      ? 'mp4'
      : null
  return [
    ...(facts.audio
      ? [
          {
            request: { operation: 'no-sound' as const },
            label: 'Remove sound',
            note: `saves about ${formatBytes(facts.audioBytes)}`,
          },
        ]
      : []),
    ...(facts.indexFirst === false
      ? [
          {
            request: { operation: 'index-first' as const },
            label: 'Move index to the front',
            note: 'playback starts sooner',
          },
        ]
      : []),
    ...(facts.personal.length > 0
      ? [
          {
            request: { operation: 'strip' as const },
            label: 'Remove metadata',
            note: 'location and device data removed',
          },
        ]
      : []),
    ...(other
      ? [
          {
            request: { operation: 'container' as const, container: other } as const,
            label: `Convert to ${other === 'mp4' ? 'MP4' : 'WebM'}`,
            note: facts.audio ? 'without its sound' : 'same frames, other container',
          },
        ]
      : []),
  ]
}

/**
 * Makes a repair and reports its saving, with undo if the source itself was changed. Throws
 * `RequestError`.
 */
export async function runRepair(
  source: Pick<SourceCard, 'id'>,
  request: RepairRequest,
  label: string,
  onChange: () => Promise<void>,
): Promise<Repaired> {
  const { tell } = useNotices.getState()
  const repaired = await api.repairSource(source.id, request)
  const { bytesBefore, bytesAfter, before, added, startMs } = repaired
  const change = bytesBefore - bytesAfter
  if (added)
    tell(
      `${repaired.source.name} is on the shelf, ${formatBytes(bytesAfter)}. It starts at the key frame at ${(startMs / 1000).toFixed(2)} s.`,
    )
  else
    tell(
      `${label}: ${formatBytes(bytesBefore)} → ${formatBytes(bytesAfter)}, ${change >= 0 ? `${formatBytes(change)} saved` : `${formatBytes(-change)} more`}.`,
      () => api.putContent(source.id, before).then(onChange),
    )
  if (!added) await onChange()
  return repaired
}
