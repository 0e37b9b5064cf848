import { regionHeightPx, type Size } from '../fit/cover'
import { CLASS_SCREENS, type ScreenClass } from '../fit/screens'
import type { Fraction } from '../Fraction'
import { hasClips, kindOf, moves, type AnySequence } from '../kinds'
import { CLIP_BYTES, CLIP_PICTURES } from '../kinds/clipUse'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import type { Ground, Motion, PictureUse, SequenceOptions, SlidesUse, Sources } from '../kinds/Kind'
import type { Layer } from '../kinds/Layer'
import { particleRepeats, particleSequence } from '../kinds/particleSequence'
import type { Definition } from '../particles/Definition'
import { dividingPeriod, shownDefinition } from '../particles/Particles'
import { toned } from '../kinds/Sequence'
import { isPlainTone, PLAIN_TONE, type Tone, type ToneDecision } from '../tone/Tone'
import type { BackdropDocument } from './BackdropDocument'

/*
 * What is delivered of a backdrop: its base and its particles together. Particles are drawn by the
 * script in front of what the base is, or rendered with it into one clip, whatever it is.
 */

type Moving = Pick<BackdropDocument, 'base' | 'particles'>
type Toned = Pick<BackdropDocument, 'base' | 'particles' | 'tone'>

/** Why particles cannot be rendered into one clip with a base; null where they can. */
export const renderHindrance = (base: BackdropDocument['base']): string | null =>
  kindOf(base).hindrance?.(base) ?? null

/** Whether base and particles are delivered as one clip. */
export const isRendered = ({ base, particles }: Moving): boolean =>
  particles?.form === 'rendered' && renderHindrance(base) === null

/**
 * How the tone of a base is made, whatever was decided: what the style draws has no files, and in
 * a clip with particles a filter would change those too.
 */
export function toneForm(document: Toned): ToneDecision['form'] {
  if (isRendered(document)) return 'files'
  return document.base.kind === 'paint' ? 'filter' : document.tone.form
}

/** The tone that the files have; null where the browser makes it. */
export function fileTone(document: Toned): Tone | null {
  const { form: _, ...tone } = document.tone
  return toneForm(document) === 'files' ? tone : null
}

/**
 * The tone that the browser makes, which cannot tint; null where files have it, or there is none.
 */
export function styleTone(document: Toned): Tone | null {
  if (toneForm(document) === 'files') return null
  const { brightness, contrast, saturation } = document.tone
  const tone = { ...PLAIN_TONE, brightness, contrast, saturation }
  return isPlainTone(tone) ? null : tone
}

/** A document whose particles are drawn by the script: what can be seen before a clip is made. */
export const drawnLive = <D extends Moving>(document: D): D =>
  isRendered(document)
    ? { ...document, particles: { ...document.particles!, form: 'live' } }
    : document

/** Whether anything of a backdrop moves: only then there is a script, and something to pause. */
export const isMoving = ({ base, particles }: Moving): boolean => moves(base) || particles !== null

/** Whether clips are rendered of a backdrop. */
export const rendersClips = (document: Moving): boolean =>
  hasClips(document.base) || isRendered(document)

/** How often the frames of a moving base come in one turn of a clip with particles. */
const repeatsOf = ({ base }: Moving): number => {
  const own = kindOf(base).motion(base)
  return own?.loops ? particleRepeats(own.turnSeconds) : 1
}

/** The particles of a backdrop with the period that they have there; null where there are none. */
export function particlesOf(document: Moving): Definition | null {
  const { base, particles } = document
  if (!particles) return null
  const own = kindOf(base).motion(base)
  const shown = shownDefinition(particles, own?.turnSeconds ?? null)
  if (!own?.loops || !isRendered(document)) return shown
  const period = dividingPeriod(shown.period, own.turnSeconds * repeatsOf(document))
  return { ...shown, period }
}

/** Those of them that the script draws. */
export const liveParticlesOf = (document: Moving): Definition | null =>
  isRendered(document) ? null : particlesOf(document)

/** How a backdrop moves: as its base does, else by its particles; null where it stands still. */
export function motionOf(document: Moving): Motion | null {
  const { base, particles } = document
  const own = kindOf(base).motion(base)
  if (!own) return particles && { turnSeconds: particles.definition.period, loops: true }
  return isRendered(document) ? { ...own, turnSeconds: own.turnSeconds * repeatsOf(document) } : own
}

/** The region of a class in its usual window, in CSS pixels. */
function usualRegion({ fit }: Pick<BackdropDocument, 'fit'>, screenClass: ScreenClass): Size {
  const { width, height } = CLASS_SCREENS[screenClass]
  return {
    width,
    height: fit.scope === 'page' ? height : Math.round(regionHeightPx(fit.height, height)),
  }
}

/** How frames are asked for: for the screens of a class, where that matters. */
export interface FrameOptions extends SequenceOptions {
  readonly screenClass?: ScreenClass
}

/** The output frames of a backdrop; null where they cannot be made here. */
export function sequenceOf(
  document: Pick<BackdropDocument, 'base' | 'fit' | 'particles' | 'tone'>,
  known: Sources,
  { screenClass = 'laptop', ...options }: FrameOptions = {},
): AnySequence | null {
  const { base, fit, particles } = document
  const plain = kindOf(base).sequence(base, known, { focal: fit.focal, ...options })
  const below = plain && toned(plain, fileTone(document))
  if (!below || !isRendered(document)) return below
  return particleSequence({
    under: below,
    definition: particlesOf(document)!,
    frameRate: options.frameRate ?? { num: particles!.frameRate, den: 1 },
    region: usualRegion(document, screenClass),
  })
}

/** Frames a second of a backdrop's clips, where a screen has no rate of its own. */
export function clipRate(document: Moving): Fraction {
  const { base, particles } = document
  return isRendered(document) && !moves(base)
    ? { num: particles!.frameRate, den: 1 }
    : kindOf(base).frameRate(base)
}

/** The still pictures that are rendered of a backdrop; null where there are none. */
export function picturesOf(document: Moving): PictureUse | null {
  const { base } = document
  const own = kindOf(base).pictures(base)
  if (!isRendered(document) || hasClips(base)) return own
  // A still base has one moment only that a poster could show.
  return { ...CLIP_PICTURES, chosen: false }
}

/** The pictures that a backdrop shows one after another; null where it shows one. */
export const slidesOf = ({ base }: Pick<Moving, 'base'>, known: Sources): SlidesUse | null =>
  kindOf(base).slides?.(base, known) ?? null

/** What is behind everything, and painted before files have come. */
export function groundOf(document: Moving): Ground {
  const { base } = document
  const own = kindOf(base).ground(base)
  return isRendered(document) && !hasClips(base) ? { ...own, placeholder: true } : own
}

/** Bytes of markup, style and script for what is below particles that the script draws. */
export function baseParts(
  document: Moving,
): Readonly<Record<'markup' | 'style' | 'script', number>> {
  const { base } = document
  const kind = kindOf(base)
  if (isRendered(document) && !hasClips(base)) return CLIP_BYTES
  return {
    markup: kind.markupBytes?.(base) ?? CLIP_BYTES.markup,
    style: kind.styleBytes(base),
    script: moves(base) ? (kind.scriptBytes?.(base) ?? CLIP_BYTES.script) : 0,
  }
}

/** What of a backdrop lies behind its scrim, from back to front. */
export function picturedLayers(document: Moving, media: DeliveredMedia): readonly Layer[] {
  const { base, particles } = document
  const definition = liveParticlesOf(document)
  if (definition) {
    const drawn = { type: 'particles', definition, frameRate: particles!.frameRate } as const
    return [...kindOf(base).layers(base, media), drawn]
  }
  if (!isRendered(document)) return kindOf(base).layers(base, media)
  const seconds = motionOf(document)!.turnSeconds
  if (hasClips(base))
    return kindOf(base)
      .layers(base, media)
      .map((layer) => (layer.type === 'video' ? { ...layer, seconds } : layer))
  const { posters, clips } = media
  const size = posters[0] ?? clips[0] ?? null
  return [
    { type: 'picture', posters },
    { type: 'video', clips, size, loops: true, seconds, fades: false },
  ]
}
