/**
 * Grows a buffer of big-endian numbers. A number outside its field's range is a bug and throws
 * RangeError.
 */
export class ByteWriter {
  private buffer = new Uint8Array(256)
  private view = new DataView(this.buffer.buffer)
  private used = 0

  get length(): number {
    return this.used
  }

  /**
   * Reserves space and returns its position. Call it before using `view`: growing replaces the
   * view.
   */
  private room(count: number): number {
    const needed = this.used + count
    if (needed > this.buffer.byteLength) {
      const larger = new Uint8Array(Math.max(needed, this.buffer.byteLength * 2))
      larger.set(this.buffer.subarray(0, this.used))
      this.buffer = larger
      this.view = new DataView(larger.buffer)
    }
    const at = this.used
    this.used = needed
    return at
  }

  private static check(value: number, low: number, high: number, kind: string): void {
    if (!Number.isInteger(value) || value < low || value > high) {
      throw new RangeError(`${value} does not fit in ${kind}`)
    }
  }

  u8(value: number): void {
    ByteWriter.check(value, 0, 0xff, 'u8')
    const at = this.room(1)
    this.view.setUint8(at, value)
  }
  u16(value: number): void {
    ByteWriter.check(value, 0, 0xffff, 'u16')
    const at = this.room(2)
    this.view.setUint16(at, value)
  }
  u24(value: number): void {
    ByteWriter.check(value, 0, 0xffffff, 'u24')
    const at = this.room(3)
    this.view.setUint8(at, value >>> 16)
    this.view.setUint16(at + 1, value & 0xffff)
  }
  u32(value: number): void {
    ByteWriter.check(value, 0, 0xffffffff, 'u32')
    const at = this.room(4)
    this.view.setUint32(at, value)
  }
  i16(value: number): void {
    ByteWriter.check(value, -0x8000, 0x7fff, 'i16')
    const at = this.room(2)
    this.view.setInt16(at, value)
  }
  i32(value: number): void {
    ByteWriter.check(value, -0x80000000, 0x7fffffff, 'i32')
    const at = this.room(4)
    this.view.setInt32(at, value)
  }
  u64(value: number): void {
    ByteWriter.check(value, 0, Number.MAX_SAFE_INTEGER, 'u64')
    const at = this.room(8)
    this.view.setBigUint64(at, BigInt(value))
  }
  i64(value: number): void {
    ByteWriter.check(value, Number.MIN_SAFE_INTEGER, Number.MAX_SAFE_INTEGER, 'i64')
    const at = this.room(8)
    this.view.setBigInt64(at, BigInt(value))
  }
  f64(value: number): void {
    const at = this.room(8)
    this.view.setFloat64(at, value)
  }
  raw(bytes: Uint8Array): void {
    const at = this.room(bytes.byteLength)
    this.buffer.set(bytes, at)
  }
  tag(text: string): void {
    for (const character of text) this.u8(character.charCodeAt(0))
  }
  /** Overwrites four bytes written earlier, for sizes known only afterwards. */
  patchU32(at: number, value: number): void {
    ByteWriter.check(value, 0, 0xffffffff, 'u32')
    this.view.setUint32(at, value)
  }
  /** A copy of what was written. */
  finish(): Uint8Array<ArrayBuffer> {
    return this.buffer.slice(0, this.used)
  }
}
