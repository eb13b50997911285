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
  // builds for single machines too, and the whole text of the licences that ask for it
  const page = readFileSync(path.join(root, 'THIRD-PARTY-NOTICES.md'), 'utf8')
  expect(page).toMatch(/@img\/sharp-libvips-\* \| [\d.]+ \| LGPL-3\.0-or-later \| \d+ \|/)
  expect(page).not.toContain('not said')
  for (const [name, words] of [
    ['LGPL-2.1', 'Version 2.1, February 1999'],
    ['LGPL-3.0', 'GNU LESSER GENERAL PUBLIC LICENSE'],
    ['GPL-3.0', 'GNU GENERAL PUBLIC LICENSE']
  ] as const) {
    expect(readFileSync(path.join(root, `licences/${name}.txt`), 'utf8')).toContain(words)
    expect(page).toContain(`licences/${name}.txt`)
  }
})
