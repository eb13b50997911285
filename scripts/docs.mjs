/**
 * `npm run docs`: draws the format table of the README and docs/formats from the registry, the list of stations, the
 * pages on files and on the elements of scenes, and the schemas of the manifest, of scenes and of sheets' data.
 */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { root } = await import('./build.mjs')
const { build } = await import('esbuild')
const outfile = path.join(root, 'dist/docs/registry.mjs')
await build({
  stdin: {
    contents:
      "export { formats } from './core/open/registry'\nexport * from './core/media/formats/document'\nexport " +
      "{ manifestSchema } from './core/run/handover/manifest'\nexport { stationsPage } from " +
      "'./core/judge/stations/document'\nexport { filesPage } from './core/job/outlet/document'\nexport { " +
      "elementsPage } from './core/draw/scene/elements/document'\nexport { sceneSchema } from " +
      "'./core/draw/scene/written'\nexport { sheetSchema } from './core/media/pictures/sheet/packed/data'\nexport { " +
      "sharedSchema } from './core/media/pictures/sheet/packed/shared'",
    resolveDir: root,
    loader: 'ts'
  },
  outfile,
  bundle: true,
  platform: 'node',
  format: 'esm',
  logLevel: 'error',
  external: ['sharp']
})
const drawn = await import(outfile)
const { formats, formatsTable, formatPage, stationsPage, filesPage, elementsPage } = drawn
const readme = path.join(root, 'README.md')
writeFileSync(
  readme,
  readFileSync(readme, 'utf8').replace(
    /(<!-- formats -->\n)[\s\S]*?(\n<!-- \/formats -->)/,
    (_, before, after) => before + formatsTable(formats) + after
  )
)
mkdirSync(path.join(root, 'docs/formats'), { recursive: true })
for (const format of formats) writeFileSync(path.join(root, `docs/formats/${format.id}.md`), formatPage(format))
const schemas = {
  handover: drawn.manifestSchema(),
  scene: drawn.sceneSchema(),
  'packed-sheet': drawn.sheetSchema(),
  'sheet-frames': drawn.sharedSchema()
}
for (const [name, schema] of Object.entries(schemas))
  writeFileSync(path.join(root, `docs/${name}.schema.json`), JSON.stringify(schema, null, 2) + '\n')
writeFileSync(path.join(root, 'docs/stations.md'), stationsPage())
writeFileSync(path.join(root, 'docs/files.md'), filesPage())
writeFileSync(path.join(root, 'docs/scene-elements.md'), elementsPage())
