/** Answers are worth what they say: a spread of the corpus, whose whole is in docs/alpha-matrix.md. */
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { expect, test } from 'vitest'
import { judged, tallyOf, type Judged } from '../material/reliability'
import { root, testHost } from './support'

const host = await testHost()
const CLIPS = 150
/** Shares no factor with the kinds, so that each of them comes up. */
const APART = 29

test(`${CLIPS} clips of the corpus: what is sure is right, and what is likely nearly always`, async () => {
  const all: Judged[] = []
  for (let i = 0; i < CLIPS; i++) {
    const each = await judged(i * APART, host)
    if (each) all.push(each)
  }
  const say = ({ name, confidence }: Judged): string => `${confidence.toFixed(2)} ${name}`
  expect(all.filter(each => each.confidence > 0.9 && !each.right).map(say)).toEqual([])
  const { likely, untold, decidable } = tallyOf(all)
  expect(likely[0]).toBeGreaterThan(100)
  expect(likely[1]).toBeLessThanOrEqual(3)
  expect(untold / decidable).toBeLessThan(0.08)
}, 900_000)

test('the page tells of at least 3,000 clips, and of others than those that answers were set by', async () => {
  const page = await readFile(path.join(root, 'docs/alpha-matrix.md'), 'utf8')
  const clips = [...page.matchAll(/^- ([\d,]+) clips/gm)].map(([, count]) => Number(count!.replace(',', '')))
  expect(clips).toHaveLength(2)
  expect(clips[0]).toBeGreaterThan(3000)
  expect(clips[1]).toBeGreaterThan(500)
})
