import { describe, expect, it } from 'vitest'
import { memorySource } from '../../bytes/ByteSource'
import { AV1_KEY } from '../../testing/samples'
import { findAv1Sequence } from '../codecs/av1'
import { findBox, parseBoxes, readBox } from '../isobmff/boxTree'
import { BOXES } from '../isobmff/boxes/registry'
import { readAvif } from './readAvif'
import { writeAvif } from './writeAvif'

const file = writeAvif(AV1_KEY, 64, 64)
const top = parseBoxes(file, 0)
const meta = top.find((box) => box.type === 'meta')!
const inside = parseBoxes(meta.payload.subarray(4), meta.payloadOffset + 4, 'meta')
const iprp = parseBoxes(findBox(inside, 'iprp')!.payload, 0, 'iprp')
const properties = parseBoxes(findBox(iprp, 'ipco')!.payload, 0, 'ipco')

describe('an AVIF image', () => {
  it('is read back by the reader with its size, depth and colours', async () => {
    expect(await readAvif(memorySource(file))).toMatchObject({
      format: 'avif',
      width: 64,
      height: 64,
      bitDepth: 8,
      alpha: false,
      orientation: 1,
      bytes: file.byteLength,
    })
  })
  it('points to the frame without its delimiter, wherever that lies', () => {
    const { items } = readBox(BOXES.iloc, findBox(inside, 'iloc')!)
    const { offset, length } = items[0]!.extents[0]!
    // The first two bytes of the sample are its temporal delimiter.
    expect(file.subarray(offset, offset + length)).toEqual(AV1_KEY.subarray(2))
    expect(offset + length).toBe(file.byteLength)
  })
  it('tells of the frame what its own sequence header says', () => {
    const { facts } = findAv1Sequence(AV1_KEY)!
    const colr = readBox(
      BOXES.colr,
      properties.find((box) => box.type === 'colr')!,
    )
    expect(colr).toEqual({
      colourType: 'nclx',
      colourPrimaries: facts.colour.primaries,
      transferCharacteristics: facts.colour.transfer,
      matrixCoefficients: facts.colour.matrix,
      fullRange: facts.colour.fullRange ? 0x80 : 0,
    })
    expect(
      readBox(
        BOXES.pixi,
        properties.find((box) => box.type === 'pixi')!,
      ).bits,
    ).toEqual([8, 8, 8])
    expect(
      readBox(
        BOXES.ispe,
        properties.find((box) => box.type === 'ispe')!,
      ),
    ).toMatchObject({ width: 64, height: 64 })
    expect(
      readBox(
        BOXES.av1C,
        properties.find((box) => box.type === 'av1C')!,
      ).configObus,
    ).toEqual(findAv1Sequence(AV1_KEY)!.obu)
  })
  it('ties every property to its one item, and says that none can do without the configuration', () => {
    const { entries } = readBox(BOXES.ipma, findBox(iprp, 'ipma')!)
    expect(entries).toEqual([{ itemId: 1, properties: [1, 2, 0x83, 4] }])
    expect(properties.map((box) => box.type)).toEqual(['ispe', 'pixi', 'av1C', 'colr'])
    expect(readBox(BOXES.pitm, findBox(inside, 'pitm')!).itemId).toBe(1)
  })
  it('names the brands that readers look for', () => {
    const ftyp = readBox(BOXES.ftyp, top[0]!)
    expect(ftyp.majorBrand).toBe('avif')
    expect(String.fromCharCode(...ftyp.compatibleBrands)).toMatch(/^avifmif1miaf/)
  })
  it('is refused where the frame has no sequence header, or is smaller than is claimed', () => {
    expect(() => writeAvif(Uint8Array.from([0x12, 0x00, 0x32, 0x02, 0xaa, 0xbb]), 64, 64)).toThrow(
      RangeError,
    )
    expect(() => writeAvif(AV1_KEY, 128, 64)).toThrow(RangeError)
  })
})
