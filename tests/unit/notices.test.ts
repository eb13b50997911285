/** The lists of other people's work are those of what is installed. */
import { readFileSync } from 'node:fs'
import path from 'node:path'
import { expect, test } from 'vitest'
import { root } from './support'

interface Notice {
  name: string
  version: string
  licence: string
  holder: string
}

test('the notices and the list under About are drawn from what is installed, and every licence is said', async () => {
  const { notices, noticesPage } = (await import(path.join(root, 'scripts/notices.mjs'))) as {
    notices(): Notice[]
    noticesPage(list: Notice[]): string
  }
  const list = notices()
  expect(readFileSync(path.join(root, 'THIRD-PARTY-NOTICES.md'), 'utf8')).toBe(noticesPage(list))
  expect(JSON.parse(readFileSync(path.join(root, 'app/third-party.json'), 'utf8'))).toEqual(
    list.map(({ name, version, licence }) => [name, version, licence])
  )
  expect(list.filter(({ licence }) => licence === 'not said')).toEqual([])
  for (const name of ['vue', 'dexie', 'sharp', 'element-plus', 'turbores'])
    expect(list.map(each => each.name)).toContain(name)
})
