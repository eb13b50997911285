/**
 * What the core needs from the machine it runs on. `platform/` makes one for the browser's workers and one for Node;
 * nothing else in the core knows where it runs.
 */
import type { ByteReader, FileRef } from './files/file'
import type { Kernels } from './kernels/kernels'

export interface Host {
  readonly kernels: Kernels
  /** Opens a file for reading at any place. */
  openFile(file: FileRef): Promise<ByteReader>
  readonly deflate: Deflate
}

/** zlib streams (RFC 1950) and raw deflate (RFC 1951). */
export interface Deflate {
  /**
   * Inflates into exactly `size` bytes. Rejects with a plain Error when the stream is damaged, or holds more or fewer; it
   * never takes more memory than `size` and a fixed window.
   */
  inflate(bytes: Uint8Array, size: number, form: 'zlib' | 'raw'): Promise<Uint8Array>
}
