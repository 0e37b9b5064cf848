import type { Size } from '../fit/cover'
import type { KnownSource } from '../kinds/Kind'
import { mimeOf } from '../media/image/mimeOf'
import { sourceFps, type SourceFacts } from '../media/probe'
import type { Source } from './wire'

/** A drawing has no pixels: it is drawn as wide as the widest file that is delivered. */
const VECTOR_WIDTH = 3840

/** The picture of a source as it is shown, before any crop. */
export function pictureOf(facts: SourceFacts): Size {
  const { displayWidth: width, displayHeight: height } = facts.kind === 'clip' ? facts.video : facts
  if (facts.kind === 'clip' || facts.format !== 'svg' || width >= VECTOR_WIDTH)
    return { width, height }
  return { width: VECTOR_WIDTH, height: Math.max(1, Math.round((VECTOR_WIDTH * height) / width)) }
}

/**
 * What sequences need to know of a source. Keys of files follow from it: whoever asks which files a
 * document has must know its sources by this function.
 */
export function knownSource({
  sha256,
  facts,
  findings,
}: Pick<Source, 'sha256' | 'facts'> & Partial<Pick<Source, 'findings'>>): KnownSource {
  return {
    sha256,
    ...pictureOf(facts),
    ...(findings && { findings }),
    image:
      facts.kind === 'image'
        ? {
            mime: mimeOf(facts.format),
            bytes: facts.bytes,
            alpha: facts.alpha,
            // One that moves would go on under reduced motion: it is drawn as it begins.
            isDrawing: facts.format === 'svg' && !facts.animated,
          }
        : null,
    fps: facts.kind === 'clip' ? sourceFps(facts.video) : null,
  }
}
