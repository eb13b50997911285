/**
 * Which mode is it? Every kind of content in every storage: the answer is right, or says that it cannot tell where it
 * cannot.
 */
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { expect, test } from 'vitest'
import { contents, runContent, type Outcome } from '../material/matrix'
import { countOf, isWrong, matrixPage } from '../material/page'
import { root, testHost } from './support'

const host = await testHost()
const all: Outcome[] = []

test.each(contents.map(content => [content.name, content] as const))('%s', async (_, content) => {
  const outcomes = await runContent(content, host)
  all.push(...outcomes)
  const say = (o: Outcome): string =>
    `${o.storage}, ${o.depth} bit, ${o.coding}: ${o.answer.mode} ${o.answer.matte ?? ''} ` +
    `${o.answer.confidence}. ${o.answer.evidence.sentence}`
  expect(outcomes.filter(isWrong).map(say)).toEqual([])
  // nothing straight is changed on the strength of its pixels, in a file that is straight by its standard
  expect(outcomes.filter(o => o.storage.startsWith('straight') && !o.takenRight).map(say)).toEqual([])
})

test('95 of 100 cases that can be decided are, and the page says what is so', async () => {
  const { cases, decidable, decided } = countOf(all)
  expect(cases).toBeGreaterThan(1200)
  expect(decided / decidable).toBeGreaterThan(0.95)
  const page = await readFile(path.join(root, 'docs/alpha-matrix.md'), 'utf8')
  expect(page.slice(0, page.indexOf('\n## Said against right'))).toBe(matrixPage(all))
})
