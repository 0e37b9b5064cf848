import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { posterRecipes } from '../../../core/backdrop/recipe'
import { DECK_SHELL, type DeckProps } from '../../rooms/Room'
import { formatBytes } from '../../ui/format'
import { Table } from '../../ui/Table'
import { imageOf } from './imageOf'

type Props = Omit<DeckProps, 'document'> & { readonly document: DocumentOf<'image'> }

/** What the image is, fact by fact. */
export function ImageDeck({ document, sources }: Props) {
  const source = imageOf(document, sources)
  if (!source) return null
  const { facts } = source
  const { displayWidth: width, displayHeight: height } = facts
  const isVector = facts.format === 'svg'
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="Facts of the image">
      <Table
        label="Facts of the image"
        head={['Fact', 'Value', 'What it means']}
        rows={[
          [
            'Size shown',
            `${width} × ${height}${facts.orientation > 1 ? ', turned by its metadata' : ''}`,
            isVector
              ? 'A drawing: sharp at any size.'
              : width >= 3840
                ? 'Fills a wide screen at twice its density.'
                : width >= 1920
                  ? 'Fills a wide screen without enlarging.'
                  : `Sharp up to ${width} px; wider screens enlarge it.`,
          ],
          [
            'Format',
            `${facts.format.toUpperCase()}${facts.animated ? ', animated' : ''}`,
            posterRecipes(document, sources.known)[0]?.recipe.format === 'svg'
              ? 'Light enough to be delivered as SVG: one file for all screens, without scripts and links.'
              : 'Delivered as AVIF, WebP and JPEG, whichever a browser takes first.',
          ],
          [
            'Transparency',
            facts.alpha ? 'present' : 'none',
            facts.alpha ? 'Filled with the colour behind the image.' : 'Nothing to fill.',
          ],
          [
            'Colour profile',
            facts.profile ?? 'sRGB',
            facts.profile && !/srgb/i.test(facts.profile)
              ? 'Converted to sRGB: very saturated colours become a little calmer.'
              : 'As screens expect it.',
          ],
          ['Weight', formatBytes(facts.bytes), 'Delivered files keep the limit under Weight.'],
        ]}
      />
    </div>
  )
}
