import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ByteReader } from '../../bytes/ByteReader'
import {
  childrenOf,
  numberIn,
  parseElements,
  readHead,
  textIn,
  unsignedOf,
  variableInteger,
} from './ebml'
import { ELEMENT_NAMES, ELEMENTS, type ElementName } from './elements'
import { binary, unsigned } from './writeWebm'

const read = (bytes: readonly number[], longest = 8, keepMarker = false) =>
  variableInteger(new ByteReader(Uint8Array.from(bytes)), longest, keepMarker)

describe('variable-length integers', () => {
  // RFC 8794, section 4.4: the same value may be written in more bytes than it needs.
  it.each([
    [[0x82], 2],
    [[0x40, 0x02], 2],
    [[0x20, 0x00, 0x02], 2],
    [[0x10, 0x00, 0x00, 0x02], 2],
    [[0x01, 0, 0, 0, 0, 0, 0, 0x02], 2],
    [[0xfe], 126],
    [[0x40, 0x7f], 127],
    [[0x7f, 0xfe], 16_382],
  ])('reads %j as %i', (bytes, value) => expect(read(bytes)).toEqual({ value, unknown: false }))

  it.each([[[0xff]], [[0x7f, 0xff]], [[0x01, 255, 255, 255, 255, 255, 255, 255]]])(
    'knows %j as "unknown size"',
    (bytes) => {
      expect(read(bytes).unknown).toBe(true)
    },
  )
  it('keeps the marker of identifiers', () =>
    expect(read([0x1a, 0x45, 0xdf, 0xa3], 4, true).value).toBe(0x1a45dfa3))
  it.each([
    [[0x00], 8, 'media/bad-value'],
    [[0x08, 1, 2, 3, 4], 4, 'media/bad-value'],
    [[0x40], 8, 'media/truncated'],
    [[], 8, 'media/truncated'],
    [[0x01, 0x7f, 255, 255, 255, 255, 255, 255], 8, 'media/bad-size'],
  ])('refuses %j of at most %i bytes with %s', (bytes, longest, code) => {
    expect(() => read(bytes, longest)).toThrow(expect.objectContaining({ code }))
  })
})

describe('elements', () => {
  it('know each identifier once', () => {
    expect(ELEMENT_NAMES.size).toBe(Object.keys(ELEMENTS).length)
  })
  it('have identifiers whose marker tells their length (RFC 8794, section 5)', () => {
    for (const [name, [id]] of Object.entries(ELEMENTS)) {
      const bytes = Math.ceil(id.toString(16).length / 2)
      expect(Math.clz32(id) - (32 - 8 * bytes), name).toBe(bytes - 1)
    }
  })
  it('come back as they were written (seed 8)', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<ElementName>('Timestamp', 'PixelWidth', 'TrackNumber'),
        fc.maxSafeNat(),
        (name, value) => {
          const [element] = parseElements(unsigned(name, value), 0)
          expect([element!.name, unsignedOf(element!)]).toEqual([name, value])
        },
      ),
      { seed: 8 },
    )
  })
  it('are found among their neighbours, with what stands in for those that are absent', () => {
    const video = parseElements(
      binary('Video', unsigned('PixelWidth', 320), unsigned('PixelHeight', 180)),
      0,
    )
    expect(numberIn(childrenOf(video, 'Video'), 'PixelHeight', 0)).toBe(180)
    expect(numberIn(childrenOf(video, 'Video'), 'DisplayWidth', 7)).toBe(7)
    expect(childrenOf(video, 'Colour')).toEqual([])
    expect(textIn(video, 'CodecID')).toBe('')
  })
  it('read floats of four and eight bytes, and text without its padding', () => {
    const short = parseElements(binary('Duration', Uint8Array.from([0x42, 0x28, 0, 0])), 0)
    const long = parseElements(
      binary('Duration', Uint8Array.from([0x40, 0x45, 0, 0, 0, 0, 0, 0])),
      0,
    )
    expect([numberIn(short, 'Duration', 0), numberIn(long, 'Duration', 0)]).toEqual([42, 42])
    expect(
      textIn(parseElements(binary('CodecID', Uint8Array.from([86, 95, 0, 0])), 0), 'CodecID'),
    ).toBe('V_')
  })
  it('skip what is unknown and refuse what is larger than its parent', () => {
    const unknown = Uint8Array.from([0xab, 0x81, 0x00, ...unsigned('TrackType', 1)])
    expect(parseElements(unknown, 0).map((element) => element.name)).toEqual(['TrackType'])
    expect(() => parseElements(Uint8Array.from([0xd7, 0x88, 1]), 500)).toThrow(
      expect.objectContaining({ code: 'media/bad-size', offset: 500 }),
    )
  })
  it('refuse integers of more than eight bytes', () => {
    const [element] = parseElements(binary('TrackType', new Uint8Array(9)), 0)
    expect(() => unsignedOf(element!)).toThrow(expect.objectContaining({ code: 'media/bad-size' }))
  })
  it('tell an element’s head without its bytes', () => {
    const head = readHead(
      new ByteReader(
        Uint8Array.from([0x1f, 0x43, 0xb6, 0x75, 0x01, 255, 255, 255, 255, 255, 255, 255]),
      ),
    )
    expect(head).toEqual({ id: 0x1f43b675, name: 'Cluster', size: null, headBytes: 12 })
  })
})
