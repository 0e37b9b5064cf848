import type { ProbeFacts } from '../ProbeFacts'
import { ENCODERS } from './encoders'

/**
 * What a probe tells of the files that follow: an encoder program probes quickly, and takes fewer
 * bytes at full effort. The same facts for a browser's encoder.
 */
export function atFullEffort(facts: ProbeFacts, encoder: string | null): ProbeFacts {
  const share = ENCODERS.find(({ program }) => encoder?.startsWith(`${program} `))?.fullShare ?? 1
  if (share === 1) return facts
  return {
    ...facts,
    points: facts.points.map((point) => ({
      ...point,
      keyBytes: point.keyBytes * share,
      frameBytes: point.frameBytes * share,
    })),
  }
}
