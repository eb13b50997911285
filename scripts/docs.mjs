/**
 * `npm run docs`: draws the format table of the README and docs/formats from the registry, the list of stations, the
 * pages on files and on the elements of scenes, and the schemas of the manifest and of scenes.
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
      "elementsPage } from './core/draw/scene/elements/document'\nexport { sceneSchema } from './core/draw/scene/written'",
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
const { formats, formatsTable, formatPage, manifestSchema, stationsPage, filesPage, elementsPage, sceneSchema } =
  await import(outfile)
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
writeFileSync(path.join(root, 'docs/handover.schema.json'), JSON.stringify(manifestSchema(), null, 2) + '\n')
writeFileSync(path.join(root, 'docs/scene.schema.json'), JSON.stringify(sceneSchema(), null, 2) + '\n')
writeFileSync(path.join(root, 'docs/stations.md'), stationsPage())
writeFileSync(path.join(root, 'docs/files.md'), filesPage())
writeFileSync(path.join(root, 'docs/scene-elements.md'), elementsPage())
