import type { Balance, Readout } from '../Balance'

/** The contrast of the heading on the current frame. */
export function readLegibility({ contrast, needed }: Balance): Readout {
  if (contrast === null)
    return { figure: '–', unit: ': 1', note: 'waiting for a frame', standing: 'busy' }
  return {
    figure: contrast.toFixed(1),
    unit: ': 1',
    note: `heading, this frame; needs ${needed}`,
    standing: contrast >= needed ? 'settled' : 'fix',
  }
}
