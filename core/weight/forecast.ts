import { maxSettingFor, dataBudget, type PassJob } from './passes'

/** The expected size and quality of a file, from its probe. */
export interface Forecast {
  /** Of the whole file. */
  readonly bytes: number
  readonly ssim: number
  /** Whether it stops at the ceiling of quality, with bytes left. */
  readonly isVisuallyLossless: boolean
}

/**
 * The expected result of a job: where its goal is on the probe's curve. It comes from short
 * encodes, so it is an estimate and shown as one.
 */
export function forecast(
  job: Pick<PassJob, 'goal' | 'curve' | 'bounds' | 'frames' | 'overhead'>,
): Forecast {
  const { goal, curve, bounds, frames, overhead } = job
  const whole = (setting: number): number => {
    const data = curve.loopBytes(setting, frames)
    return Math.round(data + overhead(data))
  }
  if (goal.kind === 'quality') {
    const setting = curve.coarsestThat(
      (each) => curve.ssim(each) >= goal.ssim,
      bounds.finest,
      bounds.coarsest,
    )
    return { bytes: whole(setting), ssim: curve.ssim(setting), isVisuallyLossless: false }
  }
  const ceiling = maxSettingFor(job)
  const setting = curve.finestWithin(
    dataBudget(job, goal.bytes).bytes,
    frames,
    ceiling,
    bounds.coarsest,
  )
  const bytes = whole(setting)
  return {
    bytes,
    ssim: curve.ssim(setting),
    isVisuallyLossless: setting === ceiling && bytes < goal.bytes * 0.98,
  }
}
