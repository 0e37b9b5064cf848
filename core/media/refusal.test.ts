import { describe, expect, it } from 'vitest'
import { FACTS } from '../testing/samples'
import { describeContainerError } from './describeContainerError'
import type { MediaFacts } from './probe'
import { refusalOf } from './refusal'

const facts = (change: Partial<MediaFacts['video']>): MediaFacts => ({
  ...FACTS,
  video: { ...FACTS.video, ...change },
})
const colour = (transfer: number) => ({ primaries: 9, transfer, matrix: 9, fullRange: false })

describe('a clip that can be read and not used', () => {
  it.each([
    [{ family: 'other', codecName: 'ProRes 422' }, 'media/codec-unsupported', /ProRes 422/],
    [{ family: 'hevc', codecName: 'HEVC' }, 'media/codec-unsupported', /HEVC/],
    [{ colour: colour(16) }, 'media/hdr', /PQ/],
    [{ colour: colour(18) }, 'media/hdr', /HLG/],
  ] as const)('%j is refused with what to export', (change, code, subject) => {
    const refusal = refusalOf(facts(change).video, false)!
    expect(refusal.code).toBe(code)
    const sentence = describeContainerError(refusal)
    expect(sentence).toMatch(subject)
    expect(sentence).toMatch(/export/i)
    expect(sentence).not.toMatch(/damaged/)
  })
  it.each([
    ['H.264', {}, false],
    ['Motion JPEG', { family: 'mjpeg', codecName: 'Motion JPEG' }, false],
    ['HEVC where it can be decoded', { family: 'hevc' }, true],
    ['SDR in BT.2020', { colour: colour(14) }, false],
    ['no declared colour', { colour: null }, false],
  ] as const)('%s is used', (_, change, canDecodeHevc) =>
    expect(refusalOf(facts(change).video, canDecodeHevc)).toBeNull(),
  )
})
