import type { ClipSource } from '../../../../core/api/wire'
import { sourceFps } from '../../../../core/media/probe'
import { DECK_SHELL } from '../../../rooms/Room'
import { formatBytes, formatFps } from '../../../ui/format'
import { Table } from '../../../ui/Table'

/** What the clip is, fact by fact. */
export function MaterialDeck({ source }: { source: ClipSource }) {
  const { facts } = source
  const { video } = facts
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="Facts of the clip">
      <Table
        label="Facts of the clip"
        head={['Fact', 'Value', 'What it means']}
        rows={[
          [
            'Size shown',
            `${video.displayWidth} × ${video.displayHeight}${video.rotationDeg ? `, turned by ${video.rotationDeg}°` : ''}`,
            video.displayWidth >= 1920
              ? 'Fills a wide screen without enlarging.'
              : `Sharp up to ${video.displayWidth} px; wider screens enlarge it.`,
          ],
          [
            'Duration',
            `${(facts.durationMs / 1000).toFixed(2)} s, ${video.frameCount} frames`,
            'A hero loop is usually 4 to 12 s of it.',
          ],
          [
            'Frame rate',
            `${formatFps(sourceFps(video))} fps`,
            video.averageFps > 30.5
              ? 'Halved by default: the difference is hardly visible behind copy.'
              : 'Kept.',
          ],
          [
            'Codec',
            `${video.codecName} (${video.codec}) in ${facts.container.toUpperCase()}`,
            'Decoded in this browser and encoded again for the web.',
          ],
          [
            'Sound',
            facts.audio ? 'present' : 'none',
            facts.audio
              ? 'Removed: backgrounds are silent, and sound interrupts loops.'
              : 'Nothing to remove.',
          ],
          [
            'Weight',
            `${formatBytes(facts.bytes)}, ${formatBytes(video.bytesPerSecond)} a second`,
            'Delivered files keep the budget under Weight.',
          ],
        ]}
      />
    </div>
  )
}
