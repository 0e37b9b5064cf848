import type { Family } from '../families'
import { ENCODERS } from './encoders'

/** Encoders as a document names them, with their versions; null for the browser's. */
export type EncoderNames = Readonly<Record<Family | 'pictures', string | null>>

/** The encoder of pictures. */
const PICTURES = 'sharp'

const programOf = (name: string): string => name.slice(0, name.indexOf(' '))

/** The best encoder for each format of those that are there; of one program the newest version. */
export function bestNames(names: readonly string[]): EncoderNames {
  const newest = (program: string): string | null =>
    names
      .filter((name) => programOf(name) === program)
      .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
      .at(-1) ?? null
  const best = (family: Family): string | null =>
    ENCODERS.filter((each) => each.family === family)
      .map(({ program }) => newest(program))
      .find((name) => name !== null) ?? null
  return {
    av1: best('av1'),
    vp9: best('vp9'),
    h264: best('h264'),
    pictures: newest(PICTURES),
  }
}
