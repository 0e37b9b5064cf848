import { ContainerError } from './ContainerError'
import type { ByteReader } from './ByteReader'
import type { ByteWriter } from './ByteWriter'

/**
 * A field of a binary structure: one declaration for both reading and writing, so that the two
 * cannot diverge. `scope` is the structure so far (reading) or the whole value (writing); fields
 * that depend on `version` or `flags` look there.
 */
export interface Field<T> {
  /**
   * The least bytes one value takes: what an array's count is checked against before allocating.
   */
  readonly minBytes: number
  read(reader: ByteReader, scope: Scope): T
  write(writer: ByteWriter, value: T, scope: Scope): void
}

export type Scope = Readonly<Record<string, unknown>>
export type ValueOf<F> = F extends Field<infer T> ? T : never
export type StructOf<F extends Record<string, Field<unknown>>> = { [K in keyof F]: ValueOf<F[K]> }

type NumberKind = 'u8' | 'u16' | 'u24' | 'u32' | 'i16' | 'i32' | 'u64' | 'i64'
const NUMBER_BYTES: Record<NumberKind, number> = {
  u8: 1,
  u16: 2,
  u24: 3,
  u32: 4,
  i16: 2,
  i32: 4,
  u64: 8,
  i64: 8,
}

function number(kind: NumberKind): Field<number> {
  return {
    minBytes: NUMBER_BYTES[kind],
    read: (reader) => reader[kind](),
    write: (writer, value) => writer[kind](value),
  }
}

export const u8 = number('u8')
export const u16 = number('u16')
export const u24 = number('u24')
export const u32 = number('u32')
export const i16 = number('i16')
export const i32 = number('i32')
export const u64 = number('u64')
export const i64 = number('i64')

/** Fixed point with `fractionBits` bits after the point, rounded on write. */
export function fixed(kind: 'u16' | 'i16' | 'u32' | 'i32', fractionBits: number): Field<number> {
  const one = 2 ** fractionBits
  return {
    minBytes: NUMBER_BYTES[kind],
    read: (reader) => reader[kind]() / one,
    write: (writer, value) => writer[kind](Math.round(value * one)),
  }
}

/** Four characters, one byte each. */
export const tag: Field<string> = {
  minBytes: 4,
  read: (reader) => reader.tag(),
  write: (writer, value) => {
    if (!/^[\x00-\xff]{4}$/.test(value))
      throw new RangeError(`"${value}" is not a four-character code`)
    writer.tag(value)
  },
}

/** `count` reserved bytes that must be present; written as zeros, or as `fill` when given. */
export function reserved(count: number, fill?: readonly number[]): Field<null> {
  return {
    minBytes: count,
    read: (reader) => {
      reader.raw(count)
      return null
    },
    write: (writer) => writer.raw(fill ? Uint8Array.from(fill) : new Uint8Array(count)),
  }
}

/** Everything up to the end, as a copy. */
export const rest: Field<Uint8Array> = {
  minBytes: 0,
  read: (reader) => reader.raw(reader.remaining).slice(),
  write: (writer, value) => writer.raw(value),
}

/** A fixed number of bytes. */
export function blob(count: number): Field<Uint8Array> {
  return {
    minBytes: count,
    read: (reader) => reader.raw(count).slice(),
    write: (writer, value) => {
      if (value.byteLength !== count)
        throw new RangeError(`${value.byteLength} bytes where ${count} are due`)
      writer.raw(value)
    },
  }
}

/** Fields in order, as one object. */
export function struct<F extends Record<string, Field<unknown>>>(fields: F): Field<StructOf<F>> {
  const entries = Object.entries(fields) as [string, Field<unknown>][]
  return {
    minBytes: entries.reduce((sum, [, field]) => sum + field.minBytes, 0),
    read(reader) {
      const value: Record<string, unknown> = {}
      for (const [name, field] of entries) value[name] = field.read(reader, value)
      return value as StructOf<F>
    },
    write(writer, value) {
      for (const [name, field] of entries)
        field.write(writer, (value as Record<string, unknown>)[name], value as Scope)
    },
  }
}

/**
 * A count of `countField`'s width, then so many items. The count is checked against the bytes left
 * before anything is allocated.
 */
export function counted<T>(countField: Field<number>, item: Field<T>): Field<T[]> {
  return {
    minBytes: countField.minBytes,
    read(reader, scope) {
      const count = countField.read(reader, scope)
      checkCount(reader, count, item.minBytes)
      return Array.from({ length: count }, () => item.read(reader, scope))
    },
    write(writer, value, scope) {
      countField.write(writer, value.length, scope)
      for (const each of value) item.write(writer, each, scope)
    },
  }
}

/**
 * Throws `media/bad-size` if `count` items of at least `minBytes` do not fit into the remaining
 * bytes.
 */
export function checkCount(reader: ByteReader, count: number, minBytes: number): void {
  if (count * Math.max(1, minBytes) > reader.remaining) {
    throw new ContainerError('media/bad-size', { offset: reader.baseOffset + reader.position })
  }
}

/** One of two fields, by the structure's `version` (0, or anything above). */
export function byVersion(zero: Field<number>, later: Field<number>): Field<number> {
  const pick = (scope: Scope): Field<number> => (scope['version'] === 0 ? zero : later)
  return {
    minBytes: Math.min(zero.minBytes, later.minBytes),
    read: (reader, scope) => pick(scope).read(reader, scope),
    write: (writer, value, scope) => pick(scope).write(writer, value, scope),
  }
}

/** Present only when the structure's `flags` hold `mask`; null otherwise. */
export function whenFlag<T>(mask: number, field: Field<T>): Field<T | null> {
  const present = (scope: Scope): boolean => ((scope['flags'] as number) & mask) !== 0
  return {
    minBytes: 0,
    read: (reader, scope) => (present(scope) ? field.read(reader, scope) : null),
    write: (writer, value, scope) => {
      if (present(scope) !== (value !== null))
        throw new RangeError('an optional field and its flag disagree')
      if (value !== null) field.write(writer, value, scope)
    },
  }
}
