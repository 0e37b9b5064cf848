import { ContainerError } from './ContainerError'

/** Reads bits, most significant first. Throws `media/truncated` past the end. */
export class BitReader {
  private readonly bytes: Uint8Array
  /** Bits from the start. */
  position = 0

  constructor(bytes: Uint8Array) {
    this.bytes = bytes
  }

  bit(): number {
    const byte = this.bytes[this.position >>> 3]
    if (byte === undefined)
      throw new ContainerError('media/truncated', { offset: this.position >>> 3 })
    const value = (byte >>> (7 - (this.position & 7))) & 1
    this.position += 1
    return value
  }

  flag(): boolean {
    return this.bit() === 1
  }

  /** An unsigned number of `count` bits, up to 32. */
  bits(count: number): number {
    let value = 0
    for (let read = 0; read < count; read++) value = value * 2 + this.bit()
    return value
  }

  skip(count: number): void {
    this.position += count
  }

  /** Unsigned Exp-Golomb. Source: ITU-T H.264 (08/2021), clause 9.1. */
  ue(): number {
    let zeros = 0
    while (this.bit() === 0) {
      zeros += 1
      if (zeros > 31) throw new ContainerError('media/bad-value', { offset: this.position >>> 3 })
    }
    return 2 ** zeros - 1 + this.bits(zeros)
  }

  /** Signed Exp-Golomb. Source: ITU-T H.264 (08/2021), clause 9.1.1. */
  se(): number {
    const code = this.ue()
    return code % 2 === 1 ? (code + 1) / 2 : 0 - code / 2
  }
}
