/** A style sheet that plays the frames of a packed sheet, a class for each action, and a page that shows them. */
import { framesPerSecond, type Rate } from '../../../../base/rate'
import type { PackedSheet, SheetAction } from './data'

/** A class as CSS takes it from any name: small letters, digits and hyphens. */
export function className(name: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
  return /^[a-z]/.test(plain) ? plain : `a${plain ? `-${plain}` : ''}`
}

/** Names as classes, each once. */
function classNames(names: readonly string[]): string[] {
  const taken = new Set<string>()
  return names.map(name => {
    const wanted = className(name)
    let free = wanted
    for (let n = 2; taken.has(free); n++) free = `${wanted}-${n}`
    taken.add(free)
    return free
  })
}

const inUrl = (name: string): string => encodeURIComponent(name).replace(/'/g, '%27')
const inMarkup = (text: string): string => text.replace(/[&<>"]/g, letter => `&#${letter.charCodeAt(0)};`)

/** Parts of a hundred, as short as they are exact enough to find any of ten thousand frames. */
const percent = (part: number): string => `${Number((100 * part).toFixed(4))}%`

function keyframes(sheet: PackedSheet, { from, to }: SheetAction, name: string): string {
  const count = to - from + 1
  const stops = Array.from({ length: count }, (_, i) => {
    const { page, x, y, width, height, left, top } = sheet.frames[from - 1 + i]!
    const image = sheet.pages.length > 1 ? ` background-image: url("${inUrl(sheet.pages[page]!.image)}");` : ''
    return (
      `  ${percent(i / count)} {${image} background-position: ${-x}px ${-y}px; width: ${width}px; ` +
      `height: ${height}px; left: ${left}px; top: ${top}px }`
    )
  })
  return `@keyframes ${name} {\n${stops.join('\n')}\n}`
}

export interface SheetPages {
  css: string
  html: string
}

/**
 * The style sheet and the page of a sheet whose pieces are not turned. Motion stands still where the reader asks for
 * less of it. `files` are what the two are called.
 */
export function sheetPages(sheet: PackedSheet, rate: Rate, files: { css: string }): SheetPages {
  const base = className(sheet.name)
  const actions = sheet.actions.length ? sheet.actions : [{ name: sheet.name, from: 1, to: sheet.frames.length }]
  const classes = classNames(actions.map(({ name }) => name)).map(name => (name === base ? name : `${base}-${name}`))
  const rules = actions.flatMap((action, i) => {
    const seconds = (action.to - action.from + 1) / framesPerSecond(rate)
    return [
      `.${classes[i]}::before { animation: ${classes[i]} ${Number(seconds.toFixed(6))}s step-end infinite }`,
      keyframes(sheet, action, classes[i]!)
    ]
  })
  const whole = `${sheet.width}px; height: ${sheet.height}px`
  const css = [
    `/* ${sheet.width}x${sheet.height}, ${sheet.frames.length} frames; one class for each action */`,
    `.${base} { position: relative; display: inline-block; overflow: hidden; width: ${whole} }`,
    `.${base}::before {`,
    '  content: "";',
    '  position: absolute;',
    '  background-repeat: no-repeat;',
    `  background-image: url("${inUrl(sheet.pages[0]!.image)}");`,
    '}',
    ...rules,
    `@media (prefers-reduced-motion: reduce) { .${base}::before { animation-play-state: paused } }`,
    `.${base}.still::before { animation-play-state: paused }`,
    ''
  ].join('\n')
  const figures = actions.map(
    ({ name }, i) =>
      `  <figure><span class="${base}${classes[i] === base ? '' : ` ${classes[i]}`}" role="img" ` +
      `aria-label="${inMarkup(name)}"></span><figcaption>${inMarkup(name)}</figcaption></figure>`
  )
  const html = [
    '<!doctype html>',
    '<html lang="en">',
    '<meta charset="utf-8">',
    '<meta name="viewport" content="width=device-width">',
    `<title>${inMarkup(sheet.name)}</title>`,
    `<link rel="stylesheet" href="${inUrl(files.css)}">`,
    '<style>',
    '  body { margin: 2rem; font: 14px/1.4 system-ui, sans-serif; background: #8d9299; color: #101214 }',
    '  figure { display: inline-block; margin: 0 2rem 2rem 0 }',
    '</style>',
    '<body>',
    ...(sheet.alpha === 'premultiplied'
      ? ['  <p>These pages are premultiplied, for engines. A browser takes them as straight: soft edges look dark.</p>']
      : []),
    ...figures,
    `  <p><button type="button" onclick="document.querySelectorAll('.${base}').forEach(each =>`,
    `    each.classList.toggle('still'))">Stop or go on</button></p>`,
    '</body>',
    '</html>',
    ''
  ].join('\n')
  return { css, html }
}
