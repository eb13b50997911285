/** The header that says what a bitmap is, as AVI holds one for each film, and Matroska for codecs named by letters. */
import { concatenate } from '../../base/files/bytes'
import { fourLetters, words } from './avi/riff'

/** 40 bytes, and what the codec adds of its own; `height` is below zero for rows from the top. */
export function bitmapHeader(given: {
  width: number
  height: number
  depth: number
  code: string
  /** Bytes of a picture, or of the largest. */
  size: number
  config: Uint8Array
}): Uint8Array {
  return concatenate([
    words([32, 40 + given.config.length], [32, given.width], [32, given.height], [16, 1], [16, given.depth]),
    fourLetters(given.code),
    words([32, given.size], [32, 0], [32, 0], [32, 0], [32, 0]),
    given.config
  ])
}
