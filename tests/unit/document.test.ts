import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { expect, test } from 'vitest'
import { formatPage, formatsTable } from '../../core/formats/document'
import { formats } from '../../core/formats/registry'
import { root } from './support'

test('the README and the pages on formats are drawn from the registry (npm run docs)', async () => {
  expect(await readFile(path.join(root, 'README.md'), 'utf8')).toContain(`\n${formatsTable(formats)}\n`)
  for (const format of formats)
    expect(await readFile(path.join(root, `docs/formats/${format.id}.md`), 'utf8')).toBe(formatPage(format))
})
