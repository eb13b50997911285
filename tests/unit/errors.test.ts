/** Errors in words: what a library trips over is said of the file, not of the library's code. */
import { expect, test } from 'vitest'
import { damagedBy, impossible, inWords, unreadable } from '../../core/base/errors'

test.each([
  [new TypeError("Cannot read properties of undefined (reading 'addUnicode')"), 'it is damaged'],
  [new Error('readTagExp returned undefined at position 22.'), 'it is damaged'],
  [new Error('Aborted(). Build with -sASSERTIONS for more info.'), 'it is damaged'],
  [new RangeError('Maximum call stack size exceeded'), 'it is damaged'],
  [new Error('memory access out of bounds'), 'it is damaged'],
  [new Error(''), 'it is damaged'],
  [new Error('assertion failed'), 'its parts contradict each other'],
  [new Error('its first block is cut short'), 'its first block is cut short'],
  ['it holds 3 of 9 bytes', 'it holds 3 of 9 bytes']
])('%s', (error, words) => {
  expect(inWords(error)).toBe(words)
})

test('an error that speaks for itself, and an abort, are passed on as they are', () => {
  const own = impossible('a picture of this size cannot be taken', 'a.png')
  const say = (why: string): ReturnType<typeof unreadable> => unreadable('a.png', null, why)
  expect(damagedBy(own, say)).toBe(own)
  const abort = new DOMException('over', 'AbortError')
  expect(damagedBy(abort, say)).toBe(abort)
  expect(damagedBy(new TypeError('x is not a function'), say)).toMatchObject({ file: 'a.png', matter: 'it is damaged' })
})
