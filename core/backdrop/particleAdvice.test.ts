import { describe, expect, it } from 'vitest'
import type { Base } from '../kinds'
import { createImage } from '../kinds/image/Image'
import { MEASURED_AREA, particleLoad } from '../particles/particleLoad'
import { newParticles } from '../particles/Particles'
import { styleOf } from '../particles/styles'
import { inventBackdrop, SAMPLE_SOURCE_ID } from '../testing/samples'
import { particleAdvice } from './particleAdvice'

const IMAGE = createImage(SAMPLE_SOURCE_ID)
const over = (base: Base, style = 'ember-drift') => ({
  base,
  particles: newParticles(styleOf(style)!.definition, style),
})
const FOLLOWING = {
  ...over(inventBackdrop().base),
  particles: newParticles(
    {
      ...styleOf('ember-drift')!.definition,
      pointer: { reaction: 'part', radius: 100, strength: 1 },
    },
    null,
  ),
}

describe('the form that is recommended', () => {
  it('is live over a still, unless weak machines cannot draw it', () => {
    expect(particleAdvice(over(IMAGE), null).form).toBe('live')
    expect(particleAdvice(over(IMAGE), 1.8).form).toBe('live')
    const heavy = particleAdvice(over(IMAGE), 3.6)
    expect(heavy.form).toBe('rendered')
    expect(heavy.because).toContain('3.6 times')
  })
  it('is one clip where a clip plays anyway, unless a mouse is followed', () => {
    expect(particleAdvice(over(inventBackdrop().base), 1.8).form).toBe('rendered')
    expect(particleAdvice(FOLLOWING, 9)).toMatchObject({ form: 'live' })
  })
  it('is live where there is no other, with the reason', () => {
    const { form, because } = particleAdvice(over({ ...IMAGE, placing: 'tile' }), 9)
    expect([form, because]).toEqual(['live', 'A clip fills the region, and this image does not.'])
  })
})

describe('the load of particles', () => {
  it('grows with the area, the rate and the time of a frame', () => {
    const load = particleLoad(1, MEASURED_AREA, 30)
    expect(particleLoad(1, MEASURED_AREA, 60)).toBeCloseTo(2 * load, 9)
    expect(particleLoad(4, MEASURED_AREA, 30)).toBeGreaterThan(load * 1.4)
    expect(particleLoad(1, { width: 2560, height: 720 }, 30)).toBeGreaterThan(load * 1.7)
  })
})
