/**
 * `npm run notices`: THIRD-PARTY-NOTICES.md, and the list that the page shows under About, from the installed packages'
 * own licence fields.
 */
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)))

/** The licence as the package says it, in either of the two ways that have been usual. */
function licenceOf({ license, licenses }) {
  if (typeof license === 'string') return license
  if (license?.type) return license.type
  if (Array.isArray(licenses)) return licenses.map(each => each.type ?? each).join(' OR ')
  return 'not said'
}

/** The first line of its licence file that names who holds the rights. */
function holderOf(folder) {
  const file = readdirSync(folder).find(name => /^(licen[cs]e|copying|notice)(\.|$|-)/i.test(name))
  if (!file) return ''
  const lines = readFileSync(path.join(folder, file), 'utf8').split('\n')
  const line = lines.find(text => /^\W*copyright\b.*\d{4}|^\W*copyright \(c\)/i.test(text)) ?? ''
  return line
    .replace(/^[\s/*#>-]+/, '')
    .replace(/<[^>]*>|\(?\S+@\S+|https?:\S+/g, '')
    .replaceAll('|', '/')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, 140)
}

/**
 * Every package that is installed to run the project, tools of development left out; sorted, one line for each version.
 */
export function notices() {
  const { packages } = JSON.parse(readFileSync(path.join(root, 'package-lock.json'), 'utf8'))
  const found = new Map()
  for (const [place, entry] of Object.entries(packages)) {
    if (!place.startsWith('node_modules/') || entry.dev || entry.devOptional || entry.link) continue
    const folder = path.join(root, place)
    const name = place.slice(place.lastIndexOf('node_modules/') + 13)
    // builds for other machines are in the list of packages and not on this one
    const own = existsSync(path.join(folder, 'package.json'))
      ? JSON.parse(readFileSync(path.join(folder, 'package.json'), 'utf8'))
      : entry.license
        ? { license: entry.license }
        : null
    if (!own || entry.optional) continue
    found.set(`${name} ${entry.version}`, {
      name,
      version: entry.version,
      licence: licenceOf(own),
      holder: existsSync(folder) ? holderOf(folder) : ''
    })
  }
  return [...found.values()].sort((a, b) =>
    a.name === b.name ? (a.version < b.version ? -1 : 1) : a.name < b.name ? -1 : 1
  )
}

/**
 * Builds of packages for one kind of machine each, of which an installation takes those that fit: by family and
 * licence, the whole list drawn from the lock file, so that it is the same wherever it is drawn.
 */
export function builds() {
  const { packages } = JSON.parse(readFileSync(path.join(root, 'package-lock.json'), 'utf8'))
  const found = new Map()
  for (const [place, entry] of Object.entries(packages)) {
    if (!place.startsWith('node_modules/') || !entry.optional || entry.dev || entry.devOptional || entry.link) continue
    const name = place.slice(place.lastIndexOf('node_modules/') + 13)
    const family = name.replace(
      /-?(aix|android|darwin|freebsd|linux(musl)?|netbsd|open(bsd|harmony)|sunos|win32|wasm32|webcontainers)(-.*)?$/,
      ''
    )
    const key =
      `${family === name ? name : `${family}${family.endsWith('/') ? '' : '-'}*`} ${entry.version} ` +
      `${entry.license ?? 'not said'}`
    found.set(key, (found.get(key) ?? 0) + 1)
  }
  return [...found]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([key, count]) => {
      const [name, version, ...licence] = key.split(' ')
      return { name, version, licence: licence.join(' '), count }
    })
}

/** Licences whose whole text goes along with Pour, since they ask for it. */
const TEXTS = ['LGPL-2.1', 'LGPL-3.0', 'GPL-3.0']

export function noticesPage(list) {
  const counts = new Map()
  for (const { licence } of list) counts.set(licence, (counts.get(licence) ?? 0) + 1)
  return `# Third-party notices

Drawn by \`npm run notices\` from the packages that are installed to build and run Pour, by their own licence fields. The whole text
of each licence lies in its package, in \`node_modules\`; those of the Lesser GPL, and of the GPL that it builds on, also in
${TEXTS.map(name => `[${name}](licences/${name}.txt)`).join(', ')}. Libraries under the Lesser GPL are used unchanged, as packages and files of their own that
can be replaced by others of the same interface. What only tests and checks need is left out.

${[...counts]
  .sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))
  .map(([licence, count]) => `- ${licence}: ${count}`)
  .join('\n')}

| Package | Version | Licence | Rights |
| --- | --- | --- | --- |
${list.map(({ name, version, licence, holder }) => `| ${name} | ${version} | ${licence} | ${holder} |`).join('\n')}

## Builds for one kind of machine

Of these an installation takes those that fit the machine.

| Packages | Version | Licence | How many |
| --- | --- | --- | ---: |
${builds()
  .map(({ name, version, licence, count }) => `| ${name} | ${version} | ${licence} | ${count} |`)
  .join('\n')}
`
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const list = notices()
  writeFileSync(path.join(root, 'THIRD-PARTY-NOTICES.md'), noticesPage(list))
  writeFileSync(
    path.join(root, 'app/third-party.json'),
    `${JSON.stringify(
      list.map(({ name, version, licence }) => [name, version, licence]),
      null,
      0
    )}\n`
  )
}
