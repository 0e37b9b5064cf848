import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import type { ScriptPart } from '../scripts'

/** What a type of layer writes into a delivered folder. */
export interface LayerEmitter<L> {
  /** Attributes of the backdrop around it that its part of the script reads. */
  attributes?(
    layer: L,
    document: BackdropDocument,
  ): Readonly<Record<string, string | number | null>>
  /** Its markup within the backdrop, line by line. */
  markup(layer: L, document: BackdropDocument): string[]
  /** What visitors use of it, in front of the copy, line by line. */
  controls?(layer: L, document: BackdropDocument): string[]
  /** Custom properties (without `--tln-`) that a site may set. */
  values?(layer: L, document: BackdropDocument): Readonly<Record<string, string>>
  /** Rules of this backdrop alone: its scope selects it, and names what is named in it. */
  ownRules?(layer: L, scope: OwnScope, document: BackdropDocument): string[]
  /** Rules of the words that are shown with it in turn. */
  wordRules?(layer: L, scope: OwnScope, document: BackdropDocument): string[]
  /** Rules that all backdrops with such a layer share, and those for print. */
  readonly rules: string
  readonly printRules?: string
  /** The addresses of the media it shows. */
  files(layer: L): string[]
  /** The parts of the script it needs. */
  scripts(layer: L): readonly ScriptPart[]
}

/** How the rules of one backdrop are told from those of others. */
export interface OwnScope {
  /** A selector. */
  readonly own: string
  readonly id: string
}

/**
 * Fills the backdrop and takes back what the host's own rules would do. Each rule has at least two
 * classes, so it survives a host's rules for elements and those with one class.
 */
export const FILLS = filling('width: 100%; height: 100%;')

/**
 * The same for a picture. Its sizes stay `auto` and are held by their limits: one that is broken is
 * then drawn as nothing, else with a sign and a frame.
 */
export const PICTURE_FILLS = filling(
  'min-width: 100%; max-width: 100%; min-height: 100%; max-height: 100%;',
)

function filling(size: string): string {
  return `
  all: revert;
  display: block;
  position: absolute;
  inset: 0;
  ${size}
  object-fit: cover;
  object-position: var(--tln-focal-point);
`
}
