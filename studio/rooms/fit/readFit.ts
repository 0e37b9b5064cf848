import { picturesOf } from '../../../core/backdrop/delivered'
import { pictureSize } from '../../../core/backdrop/recipe'
import { keptWidth, regionHeightPx } from '../../../core/fit/cover'
import { SCREENS } from '../../../core/fit/screens'
import type { Balance, Readout } from '../Balance'

/** How high the region is, and how much of the picture a phone shows. */
export function readFit({ document, sources }: Balance): Readout {
  const { height } = document.fit
  const { phone } = SCREENS
  const use = picturesOf(document)
  if (!use?.fills)
    return {
      figure: String(height.value),
      unit: height.unit,
      note: use ? 'the image is not cropped' : 'fits every screen',
      standing: 'settled',
    }
  const kept = keptWidth(pictureSize(document, sources.known), {
    width: phone.width,
    height: use.fills === 'window' ? phone.height : regionHeightPx(height, phone.height),
  })
  return {
    figure: String(height.value),
    unit: height.unit,
    note: `phone shows ${Math.round(kept * 100)} %`,
    standing: kept < 0.25 ? 'look' : 'settled',
  }
}
