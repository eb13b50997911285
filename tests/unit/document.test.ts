import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { expect, test } from 'vitest'
import { elementsPage } from '../../core/draw/scene/elements/document'
import { formatPage, formatsTable } from '../../core/media/formats/document'
import { formats } from '../../core/open/registry'
import { filesPage } from '../../core/job/outlet/document'
import { Outlet, outletProblems } from '../../core/job/outlet/outlet'
import { readOutlet } from '../../core/job/outlet/text'
import { readPreparation } from '../../core/prepare/preparation'
import { stepKinds } from '../../core/prepare/kinds'
import { root } from './support'

test('the README and the pages on formats are drawn from the registry (npm run docs)', async () => {
  expect(await readFile(path.join(root, 'README.md'), 'utf8')).toContain(`\n${formatsTable(formats)}\n`)
  for (const format of formats)
    expect(await readFile(path.join(root, `docs/formats/${format.id}.md`), 'utf8')).toBe(formatPage(format))
})

test('the page on elements of scenes is drawn from their kinds (npm run docs)', async () => {
  expect(await readFile(path.join(root, 'docs/scene-elements.md'), 'utf8')).toBe(elementsPage())
})

test('the page on files is drawn from what reads them, and its examples are read', async () => {
  const page = await readFile(path.join(root, 'docs/files.md'), 'utf8')
  expect(page).toBe(filesPage())
  const example = (kind: string): string => new RegExp(`\`\`\`json ${kind}\n([\\s\\S]*?)\`\`\``).exec(page)![1]!
  const outlet = readOutlet(example('outlet'))
  expect(outletProblems({ ...outlet, id: 'example' })).toEqual([])
  expect(readPreparation(example('preparation')).steps).toHaveLength(3)
  // every key of an outlet but its id, which is a job's own, and every step
  for (const key of Object.keys(Outlet.shape).filter(key => key !== 'id')) expect(page).toContain(`| \`${key}\` |`)
  for (const { id } of stepKinds) expect(page).toContain(`| \`${id}\` |`)
})
