import { describe, expect, it } from 'vitest'
import type { SourceCard } from '../../core/api/wire'
import { nameSchema } from '../../core/bounded'
import type { Finding } from '../../core/material/findings'
import type { ImageFacts } from '../../core/media/probe'
import { FACTS } from '../../core/testing/samples'
import { factLines, nameFromFile, personalWords, standingOf } from './describe'
import { repairOffers } from './repairOffers'

describe('a name from a file', () => {
  it.each([
    ['night-train__two.final.mp4', 'Night train two.final'],
    ['---.mp4', 'Backdrop'],
    ['.mov', 'Backdrop'],
    [`${'a-'.repeat(200)}.mp4`, 'A '.padEnd(120, 'a ').trim()],
  ])('%s', (file, name) => {
    expect(nameFromFile(file)).toBe(name)
    expect(nameSchema.safeParse(nameFromFile(file)).success).toBe(true)
  })
})

const IMAGE: ImageFacts = {
  kind: 'image',
  format: 'jpeg',
  bytes: 81_000,
  width: 900,
  height: 1600,
  orientation: 6,
  displayWidth: 1600,
  displayHeight: 900,
  bitDepth: 8,
  alpha: false,
  profile: null,
  progressive: false,
  animated: false,
  personal: ['device', 'location'],
}
const clip = (changed: Partial<typeof FACTS>): Pick<SourceCard, 'facts'> => ({
  facts: { ...FACTS, ...changed },
})
const finding = (weight: Finding['weight']): Finding => ({
  code: 'busy',
  weight,
  figure: 1,
  fromMs: null,
  toMs: null,
  place: null,
  repair: null,
})

describe('a card’s words', () => {
  it('tell a clip’s size, length, rate, codec, weight and sound', () => {
    expect(factLines(clip({}))).toEqual([
      '1920 × 1080 · 14.0 s · 24 fps',
      'H.264 · 1.70 MB · with sound',
    ])
    expect(factLines(clip({ audio: false }))[1]).toContain('silent')
  })
  it.each([
    [IMAGE, ['1600 × 900 · JPEG', '81 kB · 8 bit · sRGB']],
    [
      { ...IMAGE, format: 'svg', bitDepth: 0, bytes: 400 } as const,
      ['1600 × 900 · SVG', '400 B · vector · sRGB'],
    ],
    [
      { ...IMAGE, format: 'avif', bitDepth: 10, profile: 'Display P3' } as const,
      ['1600 × 900 · AVIF', '81 kB · 10 bit · Display P3'],
    ],
  ])('tell an image as it is shown, upright', (facts, lines) =>
    expect(factLines({ facts })).toEqual(lines),
  )
  it('say what the metadata tells', () =>
    expect(personalWords({ facts: IMAGE })).toBe('which device made it, where it was taken'))
})

describe('how a source stands', () => {
  it.each<[Finding['weight'][], boolean, string]>([
    [[], true, 'settled'],
    [[], false, 'busy'],
    [['note'], true, 'settled'],
    [['note', 'look'], true, 'look'],
    [['look', 'fix'], true, 'fix'],
    [['look'], false, 'look'],
  ])('with %j, measured: %s, is %s', (weights, measured, standing) =>
    expect(standingOf(weights.map(finding), measured)).toBe(standing),
  )
})

describe('repairs on offer', () => {
  const offered = (changed: Partial<typeof FACTS>): string[] =>
    repairOffers(clip(changed)).map(
      (offer) =>
        offer.request.operation + (offer.request.container ? ` ${offer.request.container}` : ''),
    )
  it.each<[string, Partial<typeof FACTS>, string[]]>([
    ['a clip with sound', {}, ['no-sound']],
    ['a silent one', { audio: false }, []],
    ['an index at the end', { audio: false, indexFirst: false }, ['index-first']],
    ['metadata of a place', { audio: false, personal: ['location'] }, ['strip']],
    [
      'VP9 in MP4',
      { audio: false, container: 'mp4', video: { ...FACTS.video, family: 'vp9' } },
      ['container webm'],
    ],
    ['H.264 in MKV', { audio: false, container: 'mkv', indexFirst: null }, ['container mp4']],
    [
      'VP8 in WebM',
      { audio: false, container: 'webm', video: { ...FACTS.video, family: 'vp8' } },
      [],
    ],
    ['a GIF', { container: 'gif' }, []],
  ])('for %s', (_, changed, expected) => expect(offered(changed)).toEqual(expected))
  it('for images are none', () => expect(repairOffers({ facts: IMAGE })).toEqual([]))
  it('say what the sound weighs', () =>
    expect(repairOffers(clip({}))[0]!.note).toBe('saves about 224 kB'))
})
