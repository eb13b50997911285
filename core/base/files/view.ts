/** Reading numbers of either byte order, with one clear error where the bytes end too early. */
import { unreadable } from '../errors'

/** A cursor over bytes. Every read beyond the end throws an error that names the file and the place. */
export class Cursor {
  private readonly view: DataView

  constructor(
    readonly bytes: Uint8Array,
    readonly file: string,
    readonly little: boolean
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  /** `length` bytes at `at`, without copying. */
  slice(at: number, length: number): Uint8Array {
    this.need(at, length)
    return this.bytes.subarray(at, at + length)
  }

  need(at: number, length: number): void {
    if (!(at >= 0 && length >= 0 && at + length <= this.bytes.length))
      throw unreadable(this.file, `byte ${at}`, 'the file ends here; it was cut short or is damaged')
  }

  u8(at: number): number {
    this.need(at, 1)
    return this.view.getUint8(at)
  }

  u16(at: number): number {
    this.need(at, 2)
    return this.view.getUint16(at, this.little)
  }

  u32(at: number): number {
    this.need(at, 4)
    return this.view.getUint32(at, this.little)
  }

  i32(at: number): number {
    this.need(at, 4)
    return this.view.getInt32(at, this.little)
  }

  f32(at: number): number {
    this.need(at, 4)
    return this.view.getFloat32(at, this.little)
  }

  /** A 64-bit number that must be small enough to be a place in a file. */
  u64(at: number): number {
    this.need(at, 8)
    const value = Number(this.view.getBigUint64(at, this.little))
    if (value > Number.MAX_SAFE_INTEGER) throw unreadable(this.file, `byte ${at}`, 'a place lies beyond any file')
    return value
  }

  /** Letters up to a zero byte. */
  text(at: number, most = 256): string {
    let end = at
    while (end < at + most && this.u8(end) !== 0) end++
    return String.fromCharCode(...this.bytes.subarray(at, end))
  }
}
