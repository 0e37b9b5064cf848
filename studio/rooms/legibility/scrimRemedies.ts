import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { reduce, type BackdropAction } from '../../../core/backdrop/reduce'
import {
  scrimOf,
  scrimOn,
  scrimPartOf,
  scrimPartOn,
  type ScrimPart,
} from '../../../core/backdrop/scrimOn'
import type { ScreenName } from '../../../core/fit/screens'
import { localScrims, textsBox, type LocalScrim } from '../../../core/legibility/localScrims'
import { pictureCost } from '../../../core/legibility/pictureCost'
import { isOneOf, type TextPlace } from '../../../core/legibility/TextPlace'
import { worstOfAll } from '../../../core/legibility/worstOf'
import type { Box } from '../../../core/scrim/frameContrast'
import { evenLayer, MAX_SCRIM_LAYERS, type Scrim, type ScrimLayer } from '../../../core/scrim/Scrim'
import { withScrims } from '../../worker/contrast/ContrastOrder'
import { HEADER, oppositeOf, percents, seenIn, type Failures, type RemedySearch } from './Remedy'
import { areRead, measuredIn, weakestOf } from './weakestScrim'

/** Of ΔE: what an even layer costs more than a local one. */
const LEAST_GAIN = 0.1

const LOCAL_TITLES: Readonly<Record<LocalScrim['kind'], string>> = {
  spot: 'A soft spot behind the copy',
  band: 'A band behind the copy',
}

/** Texts that are near each other, and the box they are in, in shares of the region. */
interface CopyGroup {
  readonly box: Box
  readonly isHeader: boolean
  readonly isMeant: (text: TextPlace) => boolean
}

/** A layer, and the texts that it is for. */
interface MeantLayer {
  readonly isMeant: CopyGroup['isMeant']
  readonly layer: ScrimLayer
}

/** A title with the strengths of what is laid over wider screens and phones, if they differ. */
function titled(title: string, strengths: ReadonlyMap<ScrimPart, readonly number[]>): string {
  const [shared, phone] = [strengths.get('shared'), strengths.get('phone')]
  if (!phone) return `${title}, ${percents(shared ?? [])}`
  return shared
    ? `${title}, ${percents(shared)}, on phones ${percents(phone)}`
    : `${title}, on phones alone, ${percents(phone)}`
}

/**
 * The weakest layers over the present ones: local ones that are fitted to the copy that fails, and
 * an even one. Errors: those of measuring.
 */
export async function tryScrims(search: RemedySearch, failures: Failures): Promise<void> {
  const { document } = search
  const { failing } = failures
  const color = oppositeOf(document)
  const failsOn = (part: ScrimPart): boolean =>
    failing.some(({ screen }) => scrimPartOf(document, screen) === part)
  const parts = (['shared', 'phone'] as const).filter(failsOn)
  const groups = new Map(parts.map((part) => [part, groupsOf(document, part, failures)]))
  const everything = [{ isMeant: () => true, layer: evenLayer(color, 1) }]
  const all = parts.filter((part) => part === 'shared' || document.ownScrim.phone)
  const even = await tryLayers(
    search,
    failures,
    'An even layer over everything',
    (all.length > 0 ? all : (['shared'] as const)).map((part) => ({ part, layers: everything })),
    scrimPartOn,
  )
  // A spot around a header would be nearly the whole region.
  const isOfHeader = [...groups.values()].flat().every(({ isHeader }) => isHeader)
  for (const kind of isOfHeader ? (['band'] as const) : (['spot', 'band'] as const)) {
    const wanted = parts.map((part) => ({
      part,
      layers: groups.get(part)!.map(({ box, isMeant, isHeader }) => {
        const own = isHeader ? 'band' : kind
        const { layer } = localScrims(box, color).find((each) => each.kind === own)!
        return { isMeant, layer }
      }),
    }))
    await tryLayers(search, failures, LOCAL_TITLES[kind], wanted, scrimPartOf, even)
  }
}

/** The texts that fail on the screens of a part: the header's, and the others. */
function groupsOf(
  document: BackdropDocument,
  part: ScrimPart,
  { order, failing }: Failures,
): CopyGroup[] {
  const screens = order.screens.filter(({ name }) => scrimPartOf(document, name) === part)
  // The header is far from the rest: what covers both would cover the picture between them.
  return [true, false].flatMap((isHeader): CopyGroup[] => {
    const isMeant = (text: TextPlace): boolean => isOneOf(text, HEADER) === isHeader
    const isFailing = (text: TextPlace, screen: string): boolean =>
      failing.some((each) => each.screen === screen && each.text.label === text.label)
    const box = textsBox(
      screens.map(({ layout }) => layout),
      (text, layout) =>
        isMeant(text) &&
        screens.some((screen) => screen.layout === layout && isFailing(text, screen.name)),
    )
    return box ? [{ box, isMeant, isHeader }] : []
  })
}

/**
 * Layers over the present ones, each as weak as the texts that it is for let it be, on the
 * screens of some parts; `partOn` tells which a screen belongs to. Others keep what they have. What
 * costs the picture no less than `even`, the mean difference of an even layer, is none. Gives its
 * own difference; null where it is not enough.
 */
async function tryLayers(
  { document, signal, tell, onStep }: RemedySearch,
  { order, layouts, failing, pictures }: Failures,
  title: string,
  parts: readonly { readonly part: ScrimPart; readonly layers: readonly MeantLayer[] }[],
  partOn: (document: BackdropDocument, screen: ScreenName) => ScrimPart,
  even: number | null = null,
): Promise<number | null> {
  const scrims = new Map<ScrimPart, Scrim>()
  const strengths = new Map<ScrimPart, number[]>()
  for (const { part, layers: wanted } of parts) {
    const isOwn = ({ name }: { readonly name: ScreenName }): boolean =>
      partOn(document, name) === part
    let { layers } = scrimOf(document, part)
    if (layers.length + wanted.length > MAX_SCRIM_LAYERS) {
      onStep({ vain: { title, worst: 'the scrim has as many layers as it may' } })
      return null
    }
    for (const { isMeant, layer } of wanted) {
      const under = layers
      const own = { ...order, screens: order.screens.filter(isOwn) }
      const { strength, worst } = await weakestOf(
        own.moments,
        (tried) => withScrims(own, () => ({ layers: [...under, { ...layer, strength: tried }] })),
        signal,
        (tried) => tell(titled(title, new Map([[part, [tried]]]))),
        failing.filter(({ text, screen }) => isMeant(text) && isOwn({ name: screen })),
        isMeant,
      )
      if (strength === null) {
        if (worst) onStep({ vain: { title, worst } })
        return null
      }
      layers = [...under, { ...layer, strength }]
      strengths.set(part, [...(strengths.get(part) ?? []), strength])
    }
    scrims.set(part, { layers })
  }
  const scrimAfter = (screen: ScreenName): Scrim =>
    scrims.get(partOn(document, screen)) ?? scrimOn(document, screen)
  const all = await measuredIn(
    withScrims(order, ({ name }) => scrimAfter(name)),
    signal,
  )
  const worst = worstOfAll(all)
  if (!worst) return null
  if (!areRead(all)) {
    onStep({ vain: { title, worst } })
    return null
  }
  const cost = pictureCost(
    seenIn(document, pictures),
    pictures.map((each) => ({ ...each, scrim: scrimAfter(each.screen) })),
  )
  if (even !== null && cost.deltaE > even - LEAST_GAIN) {
    onStep({ vain: { title, worst: 'no gentler to the picture than an even layer' } })
    return null
  }
  const isApart = partOn === scrimPartOf
  const shared = scrims.get('shared')
  const actions: BackdropAction[] = [
    ...(shared ? [{ type: 'scrim/set', scrim: shared } as const] : []),
    ...(isApart || scrims.has('phone')
      ? [{ type: 'scrim/own', scrim: scrims.get('phone') ?? scrimOf(document, 'phone') } as const]
      : []),
  ]
  onStep({
    remedy: {
      title: titled(title, strengths),
      actions,
      document: actions.reduce(reduce, document),
      layouts,
      worst,
      cost,
    },
  })
  return cost.deltaE
}
