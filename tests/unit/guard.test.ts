/** Who may ask the service. */
import { expect, test } from 'vitest'
import { Guesses, isLoopback, refusalOf } from '../../server/guard'

const asked = (host: string, more: { origin?: string; tokens?: (string | undefined)[] } = {}) => ({
  host,
  origin: more.origin,
  tokens: more.tokens ?? []
})

test('a server for this machine answers to its names alone, and to no page from elsewhere', () => {
  for (const host of ['localhost:3000', '127.0.0.1:3000', '[::1]:3000', 'localhost', '127.3.2.1'])
    expect(refusalOf(asked(host), 'localhost', undefined)).toBeNull()
  for (const host of ['evil.example', 'localhost.evil.example', '10.0.0.4:3000', '127.0.0.1.evil.example', ''])
    expect(refusalOf(asked(host), 'localhost', undefined)?.status).toBe(403)
  expect(refusalOf(asked('localhost:3000', { origin: 'http://localhost:3000' }), 'localhost', undefined)).toBeNull()
  for (const origin of ['http://evil.example', 'null', 'http://localhost:4000', 'http://localhost:3000.evil.example'])
    expect(refusalOf(asked('localhost:3000', { origin }), 'localhost', undefined)?.status).toBe(403)
})

test('a server for others asks for its token, whatever it is called', () => {
  const open = '0.0.0.0'
  expect(refusalOf(asked('pour.local:3000'), open, undefined)?.status).toBe(401)
  expect(refusalOf(asked('pour.local:3000'), open, '')?.status).toBe(401)
  expect(refusalOf(asked('pour.local:3000', { tokens: ['wrong', undefined] }), open, 'right')?.status).toBe(401)
  expect(refusalOf(asked('pour.local:3000', { tokens: [undefined, 'right'] }), open, 'right')).toBeNull()
  expect(
    refusalOf(asked('pour.local:3000', { origin: 'http://evil.example', tokens: ['right'] }), open, 'right')?.status
  ).toBe(403)
})

test('where it listens decides', () => {
  for (const at of ['localhost', '127.0.0.1', '::1']) expect(isLoopback(at)).toBe(true)
  for (const at of ['0.0.0.0', '::', '192.168.1.4', undefined]) expect(isLoopback(at)).toBe(false)
})

test('guessing becomes slow, and is turned away in the end; who guesses elsewhere waits for nobody', () => {
  let now = 0
  const guesses = new Guesses(() => now)
  const waits = Array.from({ length: 21 }, () => guesses.guess('a'))
  expect(waits.slice(0, 6)).toEqual([0, 0, 0, 250, 500, 1000])
  expect(waits[19]).toBe(8000)
  expect(waits[20]).toBeNull()
  expect(guesses.guess('b')).toBe(0)
  now = 11 * 60_000
  expect(guesses.guess('a')).toBe(0)
})
