import { isReadable, type Balance, type Readout } from '../Balance'

/** The contrast of the heading: the worst where all is known, else on the current frame. */
export function readLegibility({ contrast, needed, worst }: Balance): Readout {
  if (worst)
    return {
      figure: worst.ratio.toFixed(1),
      unit: ': 1',
      note: `${worst.where}; needs ${worst.needed ?? needed}`,
      standing: isReadable(worst, needed) ? 'settled' : 'fix',
    }
  if (contrast === null)
    return { figure: '–', unit: ': 1', note: 'waiting for a frame', standing: 'busy' }
  return {
    figure: contrast.toFixed(1),
    unit: ': 1',
    note: `heading, this frame; needs ${needed}`,
    standing: contrast >= needed ? 'settled' : 'fix',
  }
}
