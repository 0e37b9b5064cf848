import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { reduce, type BackdropAction } from '../../../core/backdrop/reduce'
import { isLockedColor, type BrandColor } from '../../../core/brand/Brand'
import { copyColors } from '../../../core/legibility/copyColors'
import { localScrims, textsBox, type LocalScrim } from '../../../core/legibility/localScrims'
import {
  pictureCost,
  type PictureCost,
  type SeenPicture,
} from '../../../core/legibility/pictureCost'
import { isOneOf, type TextPlace } from '../../../core/legibility/TextPlace'
import { isEnough, worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import { parseHex } from '../../../core/picture/srgb'
import { relativeLuminance } from '../../../core/scrim/contrast'
import type { Box } from '../../../core/scrim/frameContrast'
import { evenLayer, MAX_SCRIM_LAYERS, type Scrim, type ScrimLayer } from '../../../core/scrim/Scrim'
import {
  scrimOf,
  scrimOn,
  scrimPartOf,
  scrimPartOn,
  type ScrimPart,
} from '../../../core/backdrop/scrimOn'
import type { ScreenName } from '../../../core/fit/screens'
import { contrastOrder } from '../../layout/contrastOrder'
import { laidOut } from '../../layout/laidOut'
import type { LayoutPage, ScreenLayouts } from '../../layout/LayoutPage'
import type { LoadedSources } from '../../state/loadedSources'
import { withScrims, type ContrastOrder } from '../../worker/contrast/ContrastOrder'
import { blurBehind, failingMoments, readCut } from './pictureRemedies'
import { smallPictures, type ScreenPicture } from './smallPictures'
import { isButton, leastContrast, shareOf, surroundsIn } from './measureSurrounds'
import type { ToldContrast } from '../../color/ColorField'
import { suggestPlaces } from './suggestPlaces'
import { areRead, measuredIn, weakestOf } from './weakestScrim'

/** A change after which all copy is read on all screens at all times. */
export interface Remedy {
  readonly title: string
  readonly actions: readonly BackdropAction[]
  /** The document with it, and where copy lies then. */
  readonly document: BackdropDocument
  readonly layouts: ScreenLayouts
  readonly worst: WorstMoment
  /** What it takes from the picture as it is seen now. */
  readonly cost: PictureCost
  /** What is shown with it; absent where the picture is the same. */
  readonly pictures?: readonly ScreenPicture[]
}

/** What a change of the picture makes of it. */
type Seen = Pick<Remedy, 'cost' | 'pictures'>

/** Something that was tried and is not enough. */
export interface Vain {
  readonly title: string
  /** What is read worst with it, or why it cannot be tried. */
  readonly worst: WorstMoment | string
}

/** What is found on the way. */
export interface RemedyStep {
  readonly pictures?: readonly ScreenPicture[]
  readonly failing?: readonly WorstMoment[]
  readonly remedy?: Remedy
  readonly vain?: Vain
}

const LOCAL_TITLES: Readonly<Record<LocalScrim['kind'], string>> = {
  spot: 'A soft spot behind the copy',
  band: 'A band behind the copy',
}
/** Of what is needed: known from two measurements, not from one with the colour itself. */
const CLOSE = 0.97
/** How strongly it is blurred: less is tried where all is enough. */
const BLURS = [1, 0.5]
const BLUR_TITLE = 'Blur behind the copy'
const CUT_TITLE = 'A shorter loop, without the moments at which copy fails'
const LOCKED = 'it has a locked colour of the brand'
const NO_COST: PictureCost = { deltaE: 0, changed: 0 }
/** Copy brighter than this needs something dark behind it. Halfway in contrast to both ends. */
const MIDDLE_LUMINANCE = 0.18

/** Pictures as they are seen through a document's scrims. */
const seenIn = (document: BackdropDocument, pictures: readonly ScreenPicture[]): SeenPicture[] =>
  pictures.map((each) => ({ ...each, scrim: scrimOn(document, each.screen) }))

/** Texts at the top of the region. */
const HEADER = ['Brand', 'Links']

/** Texts that are near each other, and the box they are in, in shares of the region. */
interface CopyGroup {
  readonly box: Box
  readonly isHeader: boolean
  readonly isMeant: (text: TextPlace) => boolean
}

/** What scrims are looked for with. */
interface ScrimSearch {
  readonly order: ContrastOrder
  readonly layouts: ScreenLayouts
  readonly failing: readonly WorstMoment[]
  readonly pictures: readonly ScreenPicture[]
}

/** A layer, and the texts that it is for. */
interface MeantLayer {
  readonly isMeant: CopyGroup['isMeant']
  readonly layer: ScrimLayer
}

const percents = (strengths: readonly number[]): string =>
  strengths.map((each) => `${Math.round(each * 100)}\u00a0%`).join(' and ')

/** A title with the strengths of what is laid over wider screens and phones, if they differ. */
function titled(title: string, strengths: ReadonlyMap<ScrimPart, readonly number[]>): string {
  const [shared, phone] = [strengths.get('shared'), strengths.get('phone')]
  if (!phone) return `${title}, ${percents(shared ?? [])}`
  return shared
    ? `${title}, ${percents(shared)}, on phones ${percents(phone)}`
    : `${title}, on phones alone, ${percents(phone)}`
}

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

/** Looks for remedies, one after another. */
class Search {
  private readonly document: BackdropDocument
  private readonly sources: LoadedSources
  private readonly brand: readonly BrandColor[]
  private readonly page: LayoutPage
  private readonly signal: AbortSignal
  private readonly tell: (text: string) => void
  private readonly onStep: (step: RemedyStep) => void

  constructor(
    document: BackdropDocument,
    sources: LoadedSources,
    brand: readonly BrandColor[],
    page: LayoutPage,
    signal: AbortSignal,
    tell: (text: string) => void,
    onStep: (step: RemedyStep) => void,
  ) {
    this.document = document
    this.sources = sources
    this.brand = brand
    this.page = page
    this.signal = signal
    this.tell = tell
    this.onStep = onStep
  }

  /** Whether anything was measured. */
  async run(): Promise<boolean> {
    const { document, sources, signal } = this
    this.tell('Measuring')
    const layouts = await this.page.measure(document)
    const order = await contrastOrder(document, sources, layouts)
    if (!order) return false
    const failing = (await measuredIn(order, signal)).filter(
      ({ ratio, text }) => !isEnough(ratio, text.needed),
    )
    this.onStep({ failing })
    if (failing.length === 0) return true
    const pictures = await smallPictures(order, signal)
    this.onStep({ pictures })
    await this.tryColors(order, pictures)
    await this.tryPlaces()
    await this.tryScrims({ order, layouts, failing, pictures })
    await this.tryBlur(failing, pictures)
    await this.tryCut(order)
    return true
  }

  /** A change; whether it is enough. It leaves the picture as it is where no cost is told. */
  private async try(
    title: string,
    actions: readonly BackdropAction[],
    costOf: (order: ContrastOrder) => Promise<Seen> = () => Promise.resolve({ cost: NO_COST }),
  ): Promise<boolean> {
    this.tell(title)
    const changed = actions.reduce(reduce, this.document)
    const layouts = await this.page.measure(changed)
    const order = await contrastOrder(changed, this.sources, layouts)
    if (!order) return false
    const all = await measuredIn(order, this.signal)
    const worst = worstOfAll(all)
    if (worst && areRead(all)) {
      const seen = await costOf(order)
      this.onStep({ remedy: { title, actions, document: changed, layouts, worst, ...seen } })
      return true
    }
    if (worst) this.onStep({ vain: { title, worst } })
    return false
  }

  /** Blur behind the copy: all of it, and half where that is enough. */
  private async tryBlur(
    failing: readonly WorstMoment[],
    pictures: readonly ScreenPicture[],
  ): Promise<void> {
    const { document, signal } = this
    for (const strength of BLURS) {
      const title = `${BLUR_TITLE}, ${percents([strength])}`
      const actions = blurBehind(document, failing, strength)
      if (typeof actions === 'string') {
        this.onStep({ vain: { title: BLUR_TITLE, worst: actions } })
        return
      }
      const isEnoughBlur = await this.try(title, actions, async (order) => {
        const blurred = await smallPictures(order, signal)
        const cost = pictureCost(seenIn(document, pictures), seenIn(document, blurred))
        return { cost, pictures: blurred }
      })
      if (!isEnoughBlur) return
    }
  }

  /** A shorter loop, where copy fails in a few moments. */
  private async tryCut(order: ContrastOrder): Promise<void> {
    if (this.document.base.kind !== 'footage') return
    this.tell(CUT_TITLE)
    const actions = readCut(this.document, await failingMoments(order, this.signal))
    if (typeof actions === 'string') this.onStep({ vain: { title: CUT_TITLE, worst: actions } })
    else
      await this.try(CUT_TITLE, actions, async (changed) => ({
        cost: NO_COST,
        pictures: await smallPictures(changed, this.signal),
      }))
  }

  /** Colours of the brand, black and white, and tints of the picture. */
  private async tryColors(order: ContrastOrder, pictures: readonly ScreenPicture[]): Promise<void> {
    const { brand, signal } = this
    const now = this.document.copy.color
    if (isLockedColor(brand, now)) {
      this.onStep({ vain: { title: 'Copy in another colour', worst: LOCKED } })
      return
    }
    this.tell('Copy in other colours')
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
        await this.try(`Copy in ${called}`, [{ type: 'copy/write', field: 'color', value: color }])
    }
    const [best] = far.sort((one, other) => shareOf(other.told) - shareOf(one.told))
    if (best) this.onStep({ vain: { title: 'Copy in another colour', worst: farText(best) } })
  }

  private async tryPlaces(): Promise<void> {
    const title = 'Copy in another position'
    this.tell(title)
    const places = await suggestPlaces(this.document, this.sources, this.signal)
    const better = (places ?? []).filter(({ share, shareNow }) => share > shareNow)
    if (better.length === 0) this.onStep({ vain: { title, worst: 'none is better' } })
    else
      await this.try(
        title,
        better.map(({ screenClass, place }) => ({
          type: 'copy/place',
          screens: [screenClass],
          place,
        })),
      )
  }

  private async tryScrims(search: ScrimSearch): Promise<void> {
    const { document } = this
    const { failing } = search
    const isDark = relativeLuminance(parseHex(document.copy.color)) <= MIDDLE_LUMINANCE
    const color = isDark ? '#ffffff' : '#000000'
    const failsOn = (part: ScrimPart): boolean =>
      failing.some(({ screen }) => scrimPartOf(document, screen) === part)
    const parts = (['shared', 'phone'] as const).filter(failsOn)
    const groups = new Map(parts.map((part) => [part, this.groupsOf(part, search)]))
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
      await this.tryLayers(LOCAL_TITLES[kind], wanted, scrimPartOf, search)
    }
    const everything = [{ isMeant: () => true, layer: evenLayer(color, 1) }]
    const all = parts.filter((part) => part === 'shared' || document.ownScrim.phone)
    await this.tryLayers(
      'An even layer over everything',
      (all.length > 0 ? all : (['shared'] as const)).map((part) => ({ part, layers: everything })),
      scrimPartOn,
      search,
    )
  }

  /** The texts that fail on the screens of a part: the header's, and the others. */
  private groupsOf(part: ScrimPart, { order, failing }: ScrimSearch): CopyGroup[] {
    const screens = order.screens.filter(({ name }) => scrimPartOf(this.document, name) === part)
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
   * screens of some parts; `partOn` tells which a screen belongs to. Others keep what they have.
   */
  private async tryLayers(
    title: string,
    parts: readonly { readonly part: ScrimPart; readonly layers: readonly MeantLayer[] }[],
    partOn: (document: BackdropDocument, screen: ScreenName) => ScrimPart,
    { order, layouts, failing, pictures }: ScrimSearch,
  ): Promise<void> {
    const { document, signal } = this
    const scrims = new Map<ScrimPart, Scrim>()
    const strengths = new Map<ScrimPart, number[]>()
    for (const { part, layers: wanted } of parts) {
      const isOwn = ({ name }: { readonly name: ScreenName }): boolean =>
        partOn(document, name) === part
      let { layers } = scrimOf(document, part)
      if (layers.length + wanted.length > MAX_SCRIM_LAYERS) {
        this.onStep({ vain: { title, worst: 'the scrim has as many layers as it may' } })
        return
      }
      for (const { isMeant, layer } of wanted) {
        const under = layers
        const { strength, worst } = await weakestOf(
          { ...order, screens: order.screens.filter(isOwn) },
          (tried) => ({ layers: [...under, { ...layer, strength: tried }] }),
          signal,
          (tried) => this.tell(titled(title, new Map([[part, [tried]]]))),
          failing.filter(({ text, screen }) => isMeant(text) && isOwn({ name: screen })),
          isMeant,
        )
        if (strength === null) {
          if (worst) this.onStep({ vain: { title, worst } })
          return
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
    if (!worst) return
    if (!areRead(all)) {
      this.onStep({ vain: { title, worst } })
      return
    }
    const isApart = partOn === scrimPartOf
    const shared = scrims.get('shared')
    const actions: BackdropAction[] = [
      ...(shared ? [{ type: 'scrim/set', scrim: shared } as const] : []),
      ...(isApart || scrims.has('phone')
        ? [{ type: 'scrim/own', scrim: scrims.get('phone') ?? scrimOf(document, 'phone') } as const]
        : []),
    ]
    this.onStep({
      remedy: {
        title: titled(title, strengths),
        actions,
        document: actions.reduce(reduce, document),
        layouts,
        worst,
        cost: pictureCost(
          seenIn(document, pictures),
          pictures.map((each) => ({ ...each, scrim: scrimAfter(each.screen) })),
        ),
      },
    })
  }
}

/**
 * Looks for changes after which all copy is read on all screens at all times: another colour or
 * position of the copy, the weakest layers of scrim, local and even, blur behind the copy, and a
 * shorter cut. Copy in a locked colour of the brand keeps it. Each is told as it is found. Gives
 * whether anything could be measured. Errors: those of measuring.
 */
export function findRemedies(
  document: BackdropDocument,
  sources: LoadedSources,
  brand: readonly BrandColor[],
  signal: AbortSignal,
  tell: (text: string) => void,
  onStep: (step: RemedyStep) => void,
): Promise<boolean> {
  return laidOut((page) => new Search(document, sources, brand, page, signal, tell, onStep).run())
}
