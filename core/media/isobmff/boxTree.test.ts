import { describe, expect, it } from 'vitest'
import { memorySource } from '../../bytes/ByteSource'
import { findBox, parseBoxes, wrapBox } from './boxTree'
import { walkTopBoxes } from './walkTopBoxes'

const nest = (depth: number): Uint8Array =>
  depth === 0 ? new Uint8Array(0) : wrapBox('moov', nest(depth - 1))
const bytes = (...values: number[]): Uint8Array => Uint8Array.from(values)
const FREE = [0x66, 0x72, 0x65, 0x65]

describe('the box tree', () => {
  it('opens containers and keeps other boxes byte for byte', () => {
    const [moov] = parseBoxes(
      wrapBox('moov', wrapBox('trak', wrapBox('odd!', bytes(1, 2, 3)))),
      100,
    )
    const odd = findBox(moov!.children, 'trak/odd!')
    expect([...odd!.payload]).toEqual([1, 2, 3])
    expect(odd).toMatchObject({ path: 'moov/trak/odd!', offset: 116, payloadOffset: 124 })
  })
  it('reads sizes of 64 bits, and a size of nothing as "to the end"', () => {
    const [wide] = parseBoxes(bytes(0, 0, 0, 1, ...FREE, 0, 0, 0, 0, 0, 0, 0, 18, 7, 8), 0)
    expect([...wide!.payload]).toEqual([7, 8])
    const [open] = parseBoxes(bytes(0, 0, 0, 0, ...FREE, 7, 8, 9), 0)
    expect([...open!.payload]).toEqual([7, 8, 9])
  })
  it.each([
    ['larger than what is around it', bytes(0, 0, 0, 20, ...FREE, 1)],
    ['smaller than its own header', bytes(0, 0, 0, 4, ...FREE)],
    ['of 64 bits that wrap', bytes(0, 0, 0, 1, ...FREE, 0, 0, 0, 0, 0, 0, 0, 3)],
  ])('refuses a box %s', (_, box) =>
    expect(() => parseBoxes(box, 0)).toThrow(expect.objectContaining({ code: 'media/bad-size' })),
  )
  it('refuses boxes nested without end', () => {
    expect(parseBoxes(nest(12), 0)).toHaveLength(1)
    expect(() => parseBoxes(nest(14), 0)).toThrow(
      expect.objectContaining({ code: 'media/too-deep' }),
    )
  })
  it('finds nothing where nothing is', () =>
    expect(findBox(parseBoxes(nest(2), 0), 'moov/trak')).toBeNull())
})

describe('the boxes at the top of a file', () => {
  it('are known by their headers; one that the file cuts off is marked', async () => {
    const file = new Uint8Array([
      ...wrapBox('ftyp', new Uint8Array(8)),
      ...wrapBox('mdat', new Uint8Array(100)).subarray(0, 50),
    ])
    expect(await walkTopBoxes(memorySource(file))).toMatchObject([
      { type: 'ftyp', size: 16, cut: false },
      { type: 'mdat', offset: 16, size: 50, cut: true },
    ])
  })
  it('never stand still on a size of less than a header', async () => {
    await expect(
      walkTopBoxes(memorySource(bytes(0, 0, 0, 2, ...FREE, 0, 0, 0, 0))),
    ).rejects.toMatchObject({ code: 'media/bad-size' })
  })
})
