/** What a web page needs to show what was delivered: the order of the files, and the markup to paste. */
export interface WebFile {
  format: string
  path: string
  width: number
  height: number
  name: string
}

/** Best first: small and exact before widely known. */
const FILMS = ['webm-vp9', 'webm-vp8']
const PICTURES: Record<string, string> = {
  'avif-sequence': 'image/avif',
  'webp-animated': 'image/webp',
  apng: 'image/png',
  gif: 'image/gif'
}

const escaped = (text: string): string => text.replace(/[&<>"']/g, c => `&#${c.charCodeAt(0)};`)
const address = (path: string): string => escaped(path.split('/').map(encodeURIComponent).join('/'))

/** The web files among those given, best first; the last of them is the fallback of all others. */
export function fallbackOrder<T extends { format: string }>(files: readonly T[]): T[] {
  const order = [...FILMS, ...Object.keys(PICTURES)]
  return files.filter(f => order.includes(f.format)).sort((a, b) => order.indexOf(a.format) - order.indexOf(b.format))
}

/** HTML to paste, or null when no page plays any of the files. */
export function pageMarkup(files: readonly WebFile[]): string | null {
  const ordered = fallbackOrder(files)
  const [first] = ordered
  if (!first) return null
  const films = ordered.filter(f => FILMS.includes(f.format))
  const pictures = ordered.filter(f => f.format in PICTURES)
  const size = `width="${first.width}" height="${first.height}"`
  const last = pictures.at(-1)
  const sources = pictures
    .slice(0, -1)
    .map(f => `    <source srcset="${address(f.path)}" type="${PICTURES[f.format]}">\n`)
  const image = last ? `<img src="${address(last.path)}" ${size} alt="${escaped(first.name)}">` : null
  const picture =
    image && (sources.length ? `  <picture>\n${sources.join('')}    ${image}\n  </picture>` : `  ${image}`)
  if (films.length === 0) return `${picture!.replace(/^ {2}/gm, '')}\n`
  const film = films
    .map(
      f => `  <source src="${address(f.path)}" type="video/webm; codecs=${f.format === 'webm-vp9' ? 'vp9' : 'vp8'}">\n`
    )
    .join('')
  return `<video ${size} autoplay loop muted playsinline>\n${film}${picture ? `${picture}\n` : ''}</video>\n`
}

/** What the order means, in sentences. */
export function markupAdvice(files: readonly { format: string }[]): string[] {
  const ordered = fallbackOrder(files)
  if (ordered.length === 0) return []
  const films = ordered.some(f => FILMS.includes(f.format))
  const pictures = ordered.some(f => f.format in PICTURES)
  return [
    'A browser takes the first file it can play, so the order matters: it is the order of the lines.',
    ...(films
      ? [
          'Some browsers play the WebM film but ignore its alpha, and show a black rectangle. Where such visitors matter, leave the film out and use the picture files alone.'
        ]
      : []),
    ...(films && !pictures
      ? ['There is no fallback: a browser that cannot play WebM shows nothing. Pour an animated WebP or PNG as well.']
      : []),
    ...(!films && ordered.length === 1 && ordered[0]!.format === 'gif'
      ? ['GIF has no soft edges. An animated WebP or PNG before it would show them where it can be played.']
      : [])
  ]
}
