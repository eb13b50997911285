/** What calls into the compiled kernels stand on: their exports, and scratch memory. */
import type { KernelExports } from './exports'

/** Gives the places of so many bytes each in scratch memory, good until it is asked again. */
export type Lay = (...sizes: number[]) => number[]

/** Room behind what is laid in, so that vectors may read and write beyond an end. */
export const BEYOND = 64

export interface Room {
  readonly exports: KernelExports
  readonly lay: Lay
  /** Copies bytes out, into memory that was given back where some of that size was. */
  take(at: number, bytes: number): Uint8Array<ArrayBuffer>
}
