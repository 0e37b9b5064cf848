import { describe, expect, it } from 'vitest'
import { encoderOf } from '../core/weight/native/encoders'
import { asInstalled } from './installed'

describe('an installed encoder', () => {
  const vpxenc = encoderOf('vpxenc')
  it('takes finer steps where its version knows how', () =>
    expect(asInstalled(vpxenc, '  --rd-mult-inter-qp-fac=<arg>  RD multiplier').scale).toEqual({
      ...{ ...vpxenc.scale, step: 0.25 },
    }))
  it('takes whole ones where it does not', () =>
    expect(asInstalled(vpxenc, '  --cq-level=<arg>').scale.step).toBe(1))
  it('is as it is where no version takes finer ones', () => {
    const aomenc = encoderOf('aomenc')
    expect(asInstalled(aomenc, '--rd-mult-inter-qp-fac')).toBe(aomenc)
  })
})
