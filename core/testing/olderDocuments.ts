import type { BackdropDocument, DocumentOf, RenditionSettings } from '../backdrop/BackdropDocument'
import type { Scrim } from '../scrim/Scrim'

/** What older versions could say: documents of footage. */
type FootageDocument = DocumentOf<'footage'>

/** A document as version 18 wrote it: all files by the browser. */
export function asVersion18<D extends BackdropDocument>(document: D) {
  const { encoders: _, ...weight } = document.weight
  return { ...document, version: 18, weight }
}

/** A document as version 17 wrote it: without textures, tone, and anything around letters. */
export function asVersion17<D extends BackdropDocument>(document: D) {
  const { phone } = document.ownScrim
  const { letters: _1, ...copy } = document.copy
  const { tone: _2, ...rest } = asVersion18(document)
  return {
    ...rest,
    version: 17,
    copy,
    scrim: withoutTextures(document.scrim),
    ownScrim: { phone: phone && withoutTextures(phone) },
  }
}

const withoutTextures = ({ layers }: Scrim) => ({
  layers: layers.map(({ texture: _, ...layer }) => layer),
})

/** A document as version 16 wrote it: one scrim for all screens, and copy without its own faces. */
export function asVersion16<D extends BackdropDocument>(document: D) {
  const { ownScrim: _1, ...rest } = asVersion17(document)
  const { buttonStates: _2, ...copy } = rest.copy
  const { headingFamily: _3, bodyFamily: _4, ...type } = copy.type
  return { ...rest, version: 16, copy: { ...copy, type } }
}

/** A document as version 15 wrote it: layers of scrim without blend modes. */
export function asVersion15<D extends BackdropDocument>(document: D) {
  const former = asVersion16(document)
  const layers = former.scrim.layers.map(({ blend: _, ...layer }) => layer)
  return { ...former, version: 15, scrim: { layers } }
}

/** A document as version 14 wrote it: one layer of scrim, of one colour. */
export function asVersion14<D extends BackdropDocument>(document: D) {
  const [layer] = document.scrim.layers
  const [from, to] = layer!.stops
  const scrim = {
    kind: 'flat',
    color: from!.color,
    strength: layer!.strength,
    toColor: to!.color,
    toStrength: 0,
    angleDeg: layer!.angleDeg,
  }
  return { ...document, version: 14, scrim }
}

/** A document as version 11 wrote it: without particles. */
export function asVersion11<D extends BackdropDocument>(document: D) {
  const { particles: _, ...rest } = asVersion14(document)
  return { ...rest, version: 11 }
}

/** A document as version 10 wrote it: all slides with the words of the backdrop. */
export function asVersion10<D extends BackdropDocument>(document: D) {
  const { base } = document
  const older = asVersion11(document)
  if (base.kind !== 'slideshow') return { ...older, version: 10 }
  const slides = base.slides.map(({ words: _, ...slide }) => slide)
  return { ...older, version: 10, base: { ...base, slides } }
}

/** A document as version 9 wrote it: no words for the controls of slideshows. */
export function asVersion9<D extends BackdropDocument>(document: D) {
  const {
    slidesLabel: _1,
    previousLabel: _2,
    nextLabel: _3,
    slideLabel: _4,
    ...handoff
  } = document.handoff
  return { ...asVersion11(document), version: 9, handoff }
}

/** A document as version 8 wrote it: one focal point for all screens. */
export function asVersion8<D extends BackdropDocument>(document: D) {
  const { ownFocal: _, ...fit } = document.fit
  return { ...asVersion9(document), version: 8, fit }
}

/** A document as version 7 wrote it: the decisions of footage beside the shared ones. */
export function asVersion7(document: FootageDocument) {
  const { base, ...shared } = asVersion8(document)
  return { ...shared, ...base, version: 7 }
}

/** A document as version 6 wrote it: one markup for every place and site. */
export function asVersion6(document: FootageDocument): Record<string, unknown> {
  const { handoff: _, ...rest } = asVersion7(document)
  const { place: _place, ...fit } = asVersion8(document).fit
  return { ...rest, version: 6, fit }
}

/** A document as version 5 wrote it: without a matte, with another name for the blur. */
export function asVersion5(document: FootageDocument): Record<string, unknown> {
  const { matte: _, ...picture } = document.base.picture
  const renditions = Object.fromEntries(
    Object.entries(document.weight.renditions).map(([screenClass, { copyBlur, ...row }]) => [
      screenClass,
      { ...row, soften: copyBlur },
    ]),
  )
  const older = asVersion6(document)
  return { ...older, version: 5, picture, weight: { ...document.weight, renditions } }
}

/** A document as version 4 wrote it: the same decisions under the names of that time. */
export function asVersion4(document: FootageDocument): {
  version: number
  weight: { ladder: Record<string, Record<string, unknown>> } & Record<string, unknown>
} & Record<string, unknown> {
  const {
    material,
    picture,
    poster,
    weight,
    timing,
    behaviour,
    handoff: _h,
    ...rest
  } = asVersion7(document)
  const { place: _place, ...fit } = asVersion8(document).fit
  const { matte: _, ...shape } = picture
  const { maxBytes, ...posterRest } = poster
  const { renditions, breakpoints, targetSsim, noiseReduction, goal } = weight
  const row = ({
    enabled,
    budgetBytes,
    copyBlur,
    ...others
  }: RenditionSettings): Record<string, unknown> => ({
    ...others,
    on: enabled,
    soften: copyBlur,
    budget: budgetBytes,
  })
  const shows = (value: 'play' | 'poster'): string => (value === 'poster' ? 'still' : value)
  const kind = timing.seam.kind === 'ping-pong' ? 'there-and-back' : timing.seam.kind
  return {
    ...rest,
    fit,
    version: 4,
    material: { sourceId: material.sourceId },
    picture: shape,
    timing: { ...timing, seam: { ...timing.seam, kind } },
    still: { ...posterRest, ceilings: maxBytes },
    behaviour: {
      ...behaviour,
      phone: shows(behaviour.phone),
      reducedMotion: shows(behaviour.reducedMotion),
      dataSaver: shows(behaviour.dataSaver),
    },
    weight: {
      ladder: {
        phone: row(renditions.phone),
        laptop: row(renditions.laptop),
        wide: row(renditions.wide),
      },
      limits: breakpoints,
      goal,
      ssim: targetSsim,
      denoise: noiseReduction,
    },
  }
}
