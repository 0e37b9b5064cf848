import { isLockedColor } from '../../../core/brand/Brand'
import { copyColors } from '../../../core/legibility/copyColors'
import type { ToldContrast } from '../../color/ColorField'
import { isButton, leastContrast, shareOf, surroundsIn } from './measureSurrounds'
import { tryChange, type Failures, type RemedySearch } from './Remedy'
import { suggestPlaces } from './suggestPlaces'

/* Changes of the copy after which it may be read: another colour, another position. */

/** Of what is needed: known from two measurements, not from one with the colour itself. */
const CLOSE = 0.97
const LOCKED = 'it has a locked colour of the brand'

/** What the best of colours gives that are not enough. */
const farText = ({
  called,
  told: { ratio, needed },
}: {
  readonly called: string
  readonly told: ToldContrast
}): string =>
  ratio === null
    ? 'both darker and brighter lies behind it'
    : `at best ${called}: least ${ratio.toFixed(2)}\u00a0: 1, needs ${needed}`

/** Colours of the brand, black and white, and tints of the picture. */
export async function tryColors(
  search: RemedySearch,
  { order, pictures }: Failures,
): Promise<void> {
  const { document, brand, signal, tell, onStep } = search
  const now = document.copy.color
  if (isLockedColor(brand, now)) {
    onStep({ vain: { title: 'Copy in another colour', worst: LOCKED } })
    return
  }
  tell('Copy in other colours')
  const texts = (await surroundsIn(order, signal)).filter((text) => !isButton(text))
  const named = new Map(brand.map(({ name, color }) => [color.toLowerCase(), name]))
  const offered = new Set([...named.keys(), ...copyColors(pictures, now)])
  offered.delete(now.toLowerCase())
  const far: { readonly called: string; readonly told: ToldContrast }[] = []
  for (const color of offered) {
    const name = named.get(color)
    const called = name ? `${name}, ${color}` : color
    const told = leastContrast(texts, color) ?? { ratio: 21, needed: 1 }
    // What is far from enough need not be laid out and measured.
    if (shareOf(told) < CLOSE) far.push({ called, told })
    else
      await tryChange(search, `Copy in ${called}`, [
        { type: 'copy/write', field: 'color', value: color },
      ])
  }
  const [best] = far.sort((one, other) => shareOf(other.told) - shareOf(one.told))
  if (best) onStep({ vain: { title: 'Copy in another colour', worst: farText(best) } })
}

/** Copy where suggestions would put it. Errors: those of measuring. */
export async function tryPlaces(search: RemedySearch): Promise<void> {
  const { document, sources, signal, tell, onStep } = search
  const title = 'Copy in another position'
  tell(title)
  const places = await suggestPlaces(document, sources, signal)
  const better = (places ?? []).filter(({ share, shareNow }) => share > shareNow)
  if (better.length === 0) onStep({ vain: { title, worst: 'none is better' } })
  else
    await tryChange(
      search,
      title,
      better.map(({ screenClass, place }) => ({
        type: 'copy/place',
        screens: [screenClass],
        place,
      })),
    )
}
