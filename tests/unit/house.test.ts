/** The map of the house names what is there: every floor and folder, in the order that lint holds them to. */
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import path from 'node:path'
import { expect, test } from 'vitest'

const root = path.resolve(import.meta.dirname, '../..')
const read = (name: string): string => readFileSync(path.join(root, name), 'utf8')
const map = read('docs/architecture.md')
const foldersIn = (place: string): string[] =>
  readdirSync(path.join(root, place), { withFileTypes: true }).flatMap(each => (each.isDirectory() ? [each.name] : []))

/** First cells of the table under a heading, without their code marks. */
const rowsUnder = (heading: string): string[][] =>
  map
    .split(heading)[1]!
    .split('\n## ')[0]!
    .split('\n')
    .filter(line => line.startsWith('| `'))
    .map(line => line.split('|').map(cell => cell.trim()))

const floors = rowsUnder('## The floors of `core/`').map(cells => cells[1]!.replaceAll('`', ''))

test('every floor is on the map, and no other', () => {
  expect([...floors].sort()).toEqual(foldersIn('core').sort())
  expect(readdirSync(path.join(root, 'core')).filter(name => name.endsWith('.ts'))).toEqual([])
})

test('lint holds the floors in the order of the map', () => {
  const [, list] = /const FLOORS = \[([^\]]*)\]/.exec(read('eslint.config.mjs'))!
  expect(list!.split(',').map(name => name.trim().replaceAll("'", ''))).toEqual(floors)
})

test('every folder of code beside the core is on the map', () => {
  const named = rowsUnder('# How the house is built').map(cells => cells[1]!.replaceAll(/[`/]/g, ''))
  for (const name of ['core', 'platform', 'app', 'server', 'cli', 'demo', 'tests']) {
    expect(named).toContain(name)
    expect(existsSync(path.join(root, name))).toBe(true)
  }
})

test('whatever file the map points at is there', () => {
  for (const [, floor, , places] of rowsUnder('## The floors of `core/`'))
    for (const [, place] of places!.matchAll(/`([^`]+)`/g))
      expect(existsSync(path.join(root, 'core', floor!.replaceAll('`', ''), place!)), `${floor} ${place}`).toBe(true)
  for (const [, place] of map.matchAll(/`((?:base|frame|source|media|prepare|open|job|judge)\/[\w/.-]+)`/g))
    expect(existsSync(path.join(root, 'core', place!)), place).toBe(true)
})

test('a word means one thing: no name is given to two types of the core', () => {
  const places = new Map<string, string[]>()
  const files = readdirSync(path.join(root, 'core'), { recursive: true, encoding: 'utf8' })
  for (const file of files.filter(name => name.endsWith('.ts') && !name.includes('assembly')))
    for (const [, name] of read(path.join('core', file)).matchAll(/^export (?:interface|type|class) (\w+)/gm))
      places.set(name!, [...(places.get(name!) ?? []), file])
  expect([...places].filter(([, where]) => new Set(where).size > 1)).toEqual([])
})

test('every function that the core gives out says what it promises', () => {
  const bare: string[] = []
  const files = readdirSync(path.join(root, 'core'), { recursive: true, encoding: 'utf8' })
  for (const file of files.filter(name => name.endsWith('.ts') && !/assembly|kernels\/exports/.test(name))) {
    const lines = read(path.join('core', file)).split('\n')
    for (const [n, line] of lines.entries())
      if (/^export (?:async )?function\*? \w+|^export const \w+ = (?:async )?\([^)]*\)[^=]*=>/.test(line))
        if (!lines[n - 1]!.trim().endsWith('*/')) bare.push(`${file}:${n + 1}`)
  }
  expect(bare).toEqual([])
})
