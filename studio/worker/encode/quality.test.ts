import { describe, expect, it } from 'vitest'
import { qualityOf, type ComparedFrame } from './QualityWatch'

const frame = (k: number, ssim: number, psnr: number): ComparedFrame => ({
  k,
  ssim,
  psnr,
  seen: psnr + 3,
  behind: [],
})

describe('the quality of a file', () => {
  const quality = qualityOf([frame(0, 0.99, 47), frame(12, 0.94, 38), frame(30, 0.97, 41)])
  it('is the mean of what was compared, and its worst frame by number', () =>
    expect(quality).toMatchObject({
      ssim: 0.9667,
      worstSsim: 0.94,
      worstFrame: 12,
      psnr: 42,
      seen: 45,
      compared: 3,
    }))
  it('tells the first frame by itself: a blurry start would pulse at every join', () =>
    expect(quality.firstPsnr).toBe(47))
  it('names the first of equally bad frames', () =>
    expect(qualityOf([frame(0, 0.9, 40), frame(7, 0.9, 40)]).worstFrame).toBe(0))
  it('is rounded to what can be told apart', () =>
    expect(
      qualityOf([frame(0, 0.123_456_7, 33.333_33), frame(1, 0.123_456_7, 33.333_33)]),
    ).toMatchObject({
      ssim: 0.1235,
      worstSsim: 0.1235,
      psnr: 33.33,
      firstPsnr: 33.33,
      seen: 36.33,
    }))
})
