import type { SampleTable } from './MediaFile'

/**
 * A sample table that lists the same samples several times over, as delivered loops do, folded to
 * one turn; the table itself with `repeats` 1 where it does not. A turn has two samples or more:
 * files of one picture repeat nothing.
 */
export function foldRepeats(samples: SampleTable): { samples: SampleTable; repeats: number } {
  const { count, offsets, sizes } = samples
  const turn = offsets.indexOf(offsets[0]!, 2)
  const whole =
    turn >= 2 &&
    offsets[1] !== offsets[0] &&
    count % turn === 0 &&
    offsets.every(
      (offset, index) => offset === offsets[index % turn] && sizes[index] === sizes[index % turn],
    )
  if (!whole) return { samples, repeats: 1 }
  return {
    repeats: count / turn,
    samples: {
      count: turn,
      offsets: offsets.slice(0, turn),
      sizes: sizes.slice(0, turn),
      times: samples.times.slice(0, turn),
      durations: samples.durations.slice(0, turn),
      keys: samples.keys.slice(0, turn),
    },
  }
}
