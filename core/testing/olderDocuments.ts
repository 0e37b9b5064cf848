import type { BackdropDocument, RenditionSettings } from '../backdrop/BackdropDocument'

/** A document as version 4 wrote it: the same decisions under the names of that time. */
export function asVersion4(document: BackdropDocument): {
  version: number
  weight: { ladder: Record<string, Record<string, unknown>> } & Record<string, unknown>
} & Record<string, unknown> {
  const { material, poster, weight, timing, behaviour, ...rest } = document
  const { maxBytes, ...posterRest } = poster
  const { renditions, breakpoints, targetSsim, noiseReduction, goal } = weight
  const row = ({
    enabled,
    budgetBytes,
    ...others
  }: RenditionSettings): Record<string, unknown> => ({
    ...others,
    on: enabled,
    budget: budgetBytes,
  })
  const shows = (value: 'play' | 'poster'): string => (value === 'poster' ? 'still' : value)
  const kind = timing.seam.kind === 'ping-pong' ? 'there-and-back' : timing.seam.kind
  return {
    ...rest,
    version: 4,
    material: { sourceId: material.sourceId },
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
