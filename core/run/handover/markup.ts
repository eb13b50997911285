/** What a web page needs to show what was delivered: the order of the files, and the markup to paste. */
import type { OnPage } from '../../media/formats/traits/on-page'
import { formatById } from '../../open/registry'

export interface WebFile {
  format: string
  path: string
  width: number
  height: number
  name: string
}

const onPage = (file: { format: string }): OnPage | null => {
  const { page } = formatById(file.format)
  return page?.moves ? page : null
}

const isFilm = (file: { format: string }): boolean => onPage(file)?.element === 'film'
const isPicture = (file: { format: string }): boolean => onPage(file)?.element === 'picture'

const escaped = (text: string): string => text.replace(/[&<>"']/g, c => `&#${c.charCodeAt(0)};`)
const address = (path: string): string => escaped(path.split('/').map(encodeURIComponent).join('/'))

/** The web files among those given, best first; the last of them is the fallback of all others. */
export function fallbackOrder<T extends { format: string }>(files: readonly T[]): T[] {
  return files.filter(onPage).sort((a, b) => onPage(a)!.order - onPage(b)!.order)
}

/** HTML to paste, or null when no page plays any of the files. */
export function pageMarkup(files: readonly WebFile[]): string | null {
  const ordered = fallbackOrder(files)
  const [first] = ordered
  if (!first) return null
  const films = ordered.filter(isFilm)
  const pictures = ordered.filter(isPicture)
  const size = `width="${first.width}" height="${first.height}"`
  const last = pictures.at(-1)
  const sources = pictures.slice(0, -1).map(f => `    <source srcset="${address(f.path)}" type="${onPage(f)!.type}">\n`)
  const image = last ? `<img src="${address(last.path)}" ${size} alt="${escaped(first.name)}">` : null
  const picture =
    image && (sources.length ? `  <picture>\n${sources.join('')}    ${image}\n  </picture>` : `  ${image}`)
  if (films.length === 0) return `${picture!.replace(/^ {2}/gm, '')}\n`
  const film = films.map(f => `  <source src="${address(f.path)}" type="${onPage(f)!.type}">\n`).join('')
  return `<video ${size} autoplay loop muted playsinline>\n${film}${picture ? `${picture}\n` : ''}</video>\n`
}

/** What the order means, in sentences. */
export function markupAdvice(files: readonly { format: string }[]): string[] {
  const ordered = fallbackOrder(files)
  if (ordered.length === 0) return []
  const films = ordered.some(isFilm)
  const pictures = ordered.some(isPicture)
  return [
    'A browser takes the first file it can play, so the order matters: it is the order of the lines.',
    ...(films
      ? [
          'Some browsers play the WebM film but ignore its alpha, and show a black rectangle. Where such ' +
            'visitors matter, leave the film out and use the picture files alone.'
        ]
      : []),
    ...(films && !pictures
      ? ['There is no fallback: a browser that cannot play WebM shows nothing. Pour an animated WebP or PNG as well.']
      : []),
    ...(!films && ordered.length === 1 && formatById(ordered[0]!.format).uses.includes('hard-edges')
      ? ['GIF has no soft edges. An animated WebP or PNG before it would show them where it can be played.']
      : [])
  ]
}
