import type { HandoffFigures } from '../handoff/HandoffInput'
import type { DeliveredScripts } from '../handoff/scripts'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import { CLIP_FACTS, POSTER_FACTS } from './samples'

/* A delivered folder of a clip, as far as its texts depend on it. */

export const MEDIA: DeliveredMedia = {
  clips: [
    {
      screenClass: 'wide',
      family: 'vp9',
      container: 'mp4',
      url: 'media/clip-wide-1920-vp9.mp4',
      codec: 'vp09.00.40.08',
      width: 1920,
      height: 1080,
      bytes: 1_800_000,
    },
    {
      screenClass: 'wide',
      family: 'h264',
      container: 'mp4',
      url: 'media/clip-wide-1920-h264.mp4',
      codec: 'avc1.640028',
      width: 1920,
      height: 1080,
      bytes: 1_900_000,
    },
    {
      screenClass: 'phone',
      family: 'h264',
      container: 'mp4',
      url: 'media/clip-phone-640-h264.mp4',
      codec: 'avc1.64001e',
      width: 640,
      height: 360,
      bytes: 300_000,
    },
  ],
  posters: [
    {
      density: 1,
      screenClass: 'wide',
      format: 'avif',
      url: 'media/poster-1920.avif',
      width: 1920,
      height: 1080,
      bytes: 9_000,
    },
    {
      density: 1,
      screenClass: 'wide',
      format: 'jpeg',
      url: 'media/poster-1920.jpg',
      width: 1920,
      height: 1080,
      bytes: 34_000,
    },
    {
      density: 1,
      screenClass: 'phone',
      format: 'avif',
      url: 'media/poster-640.avif',
      width: 640,
      height: 360,
      bytes: 3_000,
    },
    {
      density: 1,
      screenClass: 'phone',
      format: 'webp',
      url: 'media/poster-640.webp',
      width: 640,
      height: 360,
      bytes: 4_000,
    },
    {
      density: 1,
      screenClass: 'phone',
      format: 'jpeg',
      url: 'media/poster-640.jpg',
      width: 640,
      height: 360,
      bytes: 9_000,
    },
  ],
  placeholder: POSTER_FACTS.placeholder,
}
/** Without the placeholder. */
export const BARE: DeliveredMedia = { ...MEDIA, placeholder: null }
export const FIGURES: HandoffFigures = {
  clips: MEDIA.clips.map((_, index) => ({
    ...CLIP_FACTS,
    deliveredSeam: { ratio: 1 + index / 10, deltaE: 0.2, worstDeltaE: 9 },
  })),
  posters: MEDIA.posters.map((_, index) => ({ ...POSTER_FACTS, swapDeltaE: index / 10 })),
  particleCost: null,
}
export const ID = 'k3f9a2'
export const SCRIPTS: DeliveredScripts = {
  forms: { classic: 'c __TLN_PARTS__', module: 'm', element: 'e' },
  parts: {
    video: '$& v',
    slides: 's',
    controls: 'k',
    words: 'w',
    holds: 'h',
    moving: 'm',
    particlePointer: 'p',
    particleLinks: 'l',
    particles: 'e',
  },
  types: 't',
}
