import { findAv1Sequence, stripDelimiters } from '../codecs/av1'
import { wrapBox, writeBox } from '../isobmff/boxTree'
import { BOXES } from '../isobmff/boxes/registry'
import { writeAv1C } from '../isobmff/writeMp4'

const text = (value: string): Uint8Array => new TextEncoder().encode(value)

/** The one item of the file. */
const ITEM = 1
/** Marks a property that a reader must understand. Source: ISO/IEC 23008-12:2022, clause 9.3.1. */
const ESSENTIAL = 0x80

/**
 * An AVIF image around one AV1 key frame, as an encoder gives it: colour, depth and configuration
 * are taken from its sequence header, so that they cannot disagree with the picture. `width` and
 * `height` are the picture's, in pixels. Throws RangeError if the frame has no sequence header, or
 * another size. Sources: AV1 Image File Format v1.1, clauses 2 to 4; ISO/IEC 23008-12:2022, clauses
 * 6.5, 9 and 10.2.
 */
export function writeAvif(
  keyFrame: Uint8Array,
  width: number,
  height: number,
): Uint8Array<ArrayBuffer> {
  const sequence = findAv1Sequence(keyFrame)
  if (!sequence) throw new RangeError('the AV1 frame carries no sequence header')
  const { facts, obu } = sequence
  if (facts.width < width || facts.height < height)
    throw new RangeError(
      `the frame is ${facts.width} × ${facts.height}, smaller than ${width} × ${height}`,
    )
  const data = stripDelimiters(keyFrame)
  const { primaries, transfer, matrix, fullRange } = facts.colour
  const ftyp = writeBox('ftyp', BOXES.ftyp, {
    majorBrand: 'avif',
    minorVersion: 0,
    compatibleBrands: text(`avifmif1miaf${baseline(facts)}`),
  })
  const full = (type: string, ...children: Uint8Array[]): Uint8Array =>
    wrapBox(type, new Uint8Array(4), ...children)
  const properties = [
    writeBox('ispe', BOXES.ispe, { version: 0, flags: 0, width, height }),
    writeBox('pixi', BOXES.pixi, {
      version: 0,
      flags: 0,
      bits: Array.from({ length: facts.monochrome ? 1 : 3 }, () => facts.bitDepth),
    }),
    writeAv1C(facts, obu),
    // Unspecified code points (2) would leave readers to guess: what browsers guess is BT.709 with
    // sRGB's curve and BT.601's matrix.
    writeBox('colr', BOXES.colr, {
      colourType: 'nclx',
      colourPrimaries: primaries,
      transferCharacteristics: transfer,
      matrixCoefficients: matrix,
      fullRange: fullRange ? 0x80 : 0,
    }),
  ]
  const meta = (offset: number): Uint8Array =>
    full(
      'meta',
      writeBox('hdlr', BOXES.hdlr, {
        version: 0,
        flags: 0,
        predefined: 0,
        handlerType: 'pict',
        reserved: null,
        name: text('\0'),
      }),
      writeBox('pitm', BOXES.pitm, { version: 0, flags: 0, itemId: ITEM }),
      writeBox('iloc', BOXES.iloc, {
        version: 0,
        flags: 0,
        sizes: 0x4400,
        items: [
          { itemId: ITEM, dataReferenceIndex: 0, extents: [{ offset, length: data.byteLength }] },
        ],
      }),
      full(
        'iinf',
        Uint8Array.from([0, 1]),
        writeBox('infe', BOXES.infe, {
          version: 2,
          flags: 0,
          itemId: ITEM,
          protectionIndex: 0,
          itemType: 'av01',
          name: text('\0'),
        }),
      ),
      wrapBox(
        'iprp',
        wrapBox('ipco', ...properties),
        writeBox('ipma', BOXES.ipma, {
          version: 0,
          flags: 0,
          entries: [{ itemId: ITEM, properties: [1, 2, 3 | ESSENTIAL, 4] }],
        }),
      ),
    )
  // The size of the index does not depend on the offset in it.
  const offset = ftyp.byteLength + meta(0).byteLength + 8
  const parts = [ftyp, meta(offset), wrapBox('mdat', data)]
  const file = new Uint8Array(parts.reduce((sum, part) => sum + part.byteLength, 0))
  parts.reduce((at, part) => (file.set(part, at), at + part.byteLength), 0)
  return file
}

/**
 * The profile's brand: Baseline for Main up to level 5.1, Advanced for High up to 6.0. Source: AV1
 * Image File Format v1.1, clause 8.
 */
function baseline({ profile, level }: { profile: number; level: number }): string {
  if (profile === 0 && level <= 13) return 'MA1B'
  return profile === 1 && level <= 16 ? 'MA1A' : ''
}
