import { ContainerError } from './ContainerError'

/**
 * Reads big-endian numbers from bytes. Never reads past the end: throws `media/truncated` with the
 * offset.
 */
export class ByteReader {
  readonly bytes: Uint8Array
  /** Bytes from the start of `bytes`. */
  position = 0
  /** Where `bytes` begins in the file, for error messages. */
  readonly baseOffset: number
  private readonly view: DataView

  constructor(bytes: Uint8Array, baseOffset = 0) {
    this.bytes = bytes
    this.baseOffset = baseOffset
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  get remaining(): number {
    return this.bytes.byteLength - this.position
  }

  /** Moves past `count` bytes and returns where they begin; throws if they are not there. */
  private take(count: number): number {
    if (count > this.remaining)
      throw new ContainerError('media/truncated', { offset: this.baseOffset + this.position })
    const at = this.position
    this.position += count
    return at
  }

  u8(): number {
    return this.view.getUint8(this.take(1))
  }
  u16(): number {
    return this.view.getUint16(this.take(2))
  }
  u24(): number {
    const at = this.take(3)
    return (this.view.getUint8(at) << 16) | this.view.getUint16(at + 1)
  }
  u32(): number {
    return this.view.getUint32(this.take(4))
  }
  i16(): number {
    return this.view.getInt16(this.take(2))
  }
  i32(): number {
    return this.view.getInt32(this.take(4))
  }
  /**
   * Unsigned 64 bits as a number; throws `media/bad-value` above 2^53 − 1, which no real file
   * reaches.
   */
  u64(): number {
    return this.safe(this.view.getBigUint64(this.take(8)))
  }
  i64(): number {
    return this.safe(this.view.getBigInt64(this.take(8)))
  }
  f32(): number {
    return this.view.getFloat32(this.take(4))
  }
  f64(): number {
    return this.view.getFloat64(this.take(8))
  }
  /** A view of the next `count` bytes, not a copy. */
  raw(count: number): Uint8Array {
    const at = this.take(count)
    return this.bytes.subarray(at, at + count)
  }
  /** Four characters, one byte each. */
  tag(): string {
    return String.fromCharCode(...this.raw(4))
  }

  private safe(value: bigint): number {
    const number = Number(value)
    if (!Number.isSafeInteger(number)) {
      throw new ContainerError('media/bad-value', { offset: this.baseOffset + this.position - 8 })
    }
    return number
  }
}
