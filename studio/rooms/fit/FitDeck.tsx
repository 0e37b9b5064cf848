import { picturesOf } from '../../../core/backdrop/delivered'
import { pictureSize } from '../../../core/backdrop/recipe'
import { keptHeight, keptWidth, regionHeightPx } from '../../../core/fit/cover'
import { SCREENS, type ScreenName } from '../../../core/fit/screens'
import { Table } from '../../ui/Table'
import { DECK_SHELL, type DeckProps } from '../Room'

/** Visible part of the picture per screen. */
export function FitDeck({ document, sources }: DeckProps) {
  const use = picturesOf(document)
  const picture = use && pictureSize(document, sources.known)
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="What each screen keeps">
      <Table
        label="Visible part of the picture per screen"
        head={['Screen', 'Region', 'Visible width', 'Visible height', 'Stretched']}
        rows={(Object.keys(SCREENS) as ScreenName[]).map((name) => {
          const screen = SCREENS[name]
          const region = {
            width: screen.width,
            height:
              use?.fills === 'window'
                ? screen.height
                : regionHeightPx(document.fit.height, screen.height),
          }
          const label = `${screen.label}, ${screen.width} × ${screen.height}`
          if (!picture || !use.fills)
            return [label, `${region.width} × ${region.height}`, 'all', 'all', 'no']
          const scale = Math.max(region.width / picture.width, region.height / picture.height)
          return [
            label,
            `${region.width} × ${region.height}`,
            `${Math.round(keptWidth(picture, region) * 100)} %`,
            `${Math.round(keptHeight(picture, region) * 100)} %`,
            scale > 1 ? `${scale.toFixed(2)} ×, soft` : 'no',
          ]
        })}
      />
    </div>
  )
}
