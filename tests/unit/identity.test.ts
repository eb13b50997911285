/** Sources are told apart by what their files are, and are the same as long as these are. */
import { expect, test } from 'vitest'
import type { FileRef } from '../../core/base/files/file'
import { filesIdentity, identityOf } from '../../core/source/identity'
import { specAsFound } from '../../core/open/stored'
import { specKey } from '../../core/source/identity'
import { bytesFile } from './support'

const disk = (is: string): FileRef => ({ kind: 'disk', path: 'title.mov', size: 9, location: '/in/title.mov', is })
const zipped = (archive: FileRef, offset: number): FileRef => ({
  ...{ kind: 'zipped', path: 'f_1.png', size: 5, archive, offset },
  ...{ packedSize: 5, method: 'stored', crc: 7 }
})
const spec = (file: FileRef): ReturnType<typeof specAsFound> => specAsFound('s', 'title', 'apng', [file])

test('another file under the same id, name and place is another source', () => {
  expect(specKey(spec(disk('red')))).not.toBe(specKey(spec(disk('green'))))
  expect(specKey(spec(disk('red')))).toBe(specKey(spec(disk('red'))))
  const bytes = (n: number): FileRef => bytesFile('a.json', new Uint8Array(200_000).fill(n))
  expect(identityOf(bytes(1))).not.toBe(identityOf(bytes(2)))
  expect(identityOf(bytes(1))).toBe(identityOf(bytes(1)))
})

test('entries go by their archive and their place in it', () => {
  const all = [zipped(disk('a'), 30), zipped(disk('b'), 30), zipped(disk('a'), 90)]
  expect(new Set(all.map(identityOf)).size).toBe(3)
})

test('order, numbers and what pictures are brought to count; a list is gone through once', () => {
  const files = [disk('a'), disk('b')]
  const base = { ...spec(disk('a')), files }
  const others = [
    base,
    { ...base, files: [...files].reverse() },
    { ...base, numbers: [1, 2] },
    { ...base, numbers: [1, 3] },
    { ...base, key: [disk('k')] },
    { ...base, format: 'gif' }
  ]
  expect(new Set(others.map(filesIdentity)).size).toBe(others.length)
  let read = 0
  const watched = new Proxy(disk('a'), {
    get: (of, key) => (key === 'kind' && read++, Reflect.get(of, key) as unknown)
  })
  const list = [watched]
  for (let n = 0; n < 3; n++) filesIdentity({ ...base, files: list })
  const once = read
  expect(once).toBeGreaterThan(0)
  filesIdentity({ ...base, files: list, name: 'another' })
  expect(read).toBe(once)
})
