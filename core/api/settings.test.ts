import { describe, expect, it } from 'vitest'
import { CLASS_SCREENS } from '../fit/screens'
import { SUPPORT } from '../weight/support'
import { settingsSchema } from './settings'

describe('what a project decides', () => {
  it('is Telon’s own in all that it leaves out, and no part of it is shared', () => {
    const [one, other] = [settingsSchema.parse({}), settingsSchema.parse({})]
    expect(one).toMatchObject({
      budgets: { phone: 1_000_000 },
      breakpoints: { phone: 640, laptop: 1440 },
      screens: CLASS_SCREENS,
      support: SUPPORT,
    })
    one.screens.phone.width = 999
    expect([other.screens.phone.width, CLASS_SCREENS.phone.width]).toEqual([412, 412])
  })
  it('keeps what was stored before a project had screens of its own', () => {
    expect(
      settingsSchema.parse({ budgets: { phone: 600_000, laptop: 2_000_000, wide: 3_000_000 } }),
    ).toMatchObject({ budgets: { phone: 600_000 }, screens: CLASS_SCREENS })
  })
  it.each([
    [{ breakpoints: { phone: 1500, laptop: 1400 } }, 'Laptop windows are wider'],
    [
      { screens: { ...CLASS_SCREENS, phone: { width: 100, height: 900, density: 1 } } },
      '240 pixels wide',
    ],
    [
      { screens: { ...CLASS_SCREENS, wide: { width: 1920, height: 1080, density: 0.1 } } },
      'Half a device pixel',
    ],
    [{ budgets: { phone: 1, laptop: 2_000_000, wide: 3_000_000 } }, 'at least 20 kB'],
  ])('says what is wrong with %j', (wrong, words) => {
    const checked = settingsSchema.safeParse(wrong)
    expect(checked.success).toBe(false)
    expect(checked.error!.issues.map(({ message }) => message).join()).toContain(words)
  })
})
