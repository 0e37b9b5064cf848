import type { KindName } from '../../core/kinds'

/** The kinds of base in words. */
export const KIND_WORDS: Readonly<Record<KindName, { label: string; note: string }>> = {
  footage: { label: 'Footage', note: 'a clip that loops behind the copy' },
  slideshow: { label: 'Slideshow', note: 'images that follow one another' },
  image: { label: 'Image', note: 'a still, with slow pan and zoom if wanted' },
  paint: { label: 'Paint', note: 'colours and gradients; no files to load' },
}
