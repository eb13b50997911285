/** File names from patterns. Fields stand in braces; anything a file system or a receiver may not take is replaced. */

export const NAME_FIELDS = [
  'source',
  'original',
  'outlet',
  'span',
  'frame',
  'depth',
  'rate',
  'width',
  'height'
] as const
export type NameFields = Partial<Record<(typeof NAME_FIELDS)[number], string>>

/** Names some systems keep for themselves, whatever the extension. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)$/i

/** Letters that a name may have, and bytes: room is left for an extension and a number within the 255 of a disk. */
const MOST_LETTERS = 120
const MOST_NAME_BYTES = 200

const bytesOf = (text: string): number => new TextEncoder().encode(text).length

/** Text with what a file system may not take replaced, as long as it is. */
const cleaned = (text: string): string =>
  text
    .normalize('NFC')

    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]+/g, '-')
    .replace(/\s+/g, '_')
    .toWellFormed()
    .replace(/^[.\-_]+|[.\-_]+$/g, '')

const fits = (name: string): boolean => name.length <= MOST_LETTERS && bytesOf(name) <= MOST_NAME_BYTES

/** Text without its last letters, never half of one, until `whole` of it fits. */
function cutUntil(text: string, whole: (text: string) => boolean): string {
  const letters = [...text]
  while (letters.length && !whole(letters.join(''))) letters.pop()
  return letters.join('')
}

const unreserved = (name: string): string => (name === '' || RESERVED.test(name) ? `_${name}` : name)

/** A word fit for every file system: no separators, no control characters, no leading dot, 120 characters at most. */
export function safeName(text: string): string {
  return unreserved(cleaned(cutUntil(cleaned(text), fits)))
}

/**
 * Fills a pattern. Fields without a value vanish together with one separator before them. A name that would be too long
 * has its longest field shortened: the frame's number stays whole, so that names of different frames stay apart.
 */
export function fillName(pattern: string, fields: NameFields): string {
  const parts: { text: string; number: boolean }[] = []
  let end = 0
  for (const match of pattern.matchAll(/[ ._-]?\{([a-z]+)\}/g)) {
    const [whole, name] = match as unknown as [string, keyof NameFields]
    parts.push({ text: pattern.slice(end, match.index), number: false })
    end = match.index + whole.length
    const value = fields[name]
    if (value === undefined || value === '') continue
    if (!whole.startsWith('{')) parts.push({ text: whole[0]!, number: false })
    parts.push({ text: value, number: name === 'frame' })
  }
  parts.push({ text: pattern.slice(end), number: false })
  const joined = (): string => cleaned(parts.map(({ text }) => text).join(''))
  // what is trimmed or merged changes lengths, so each shortening is tried
  while (!fits(joined())) {
    const longest = parts.reduce<(typeof parts)[number] | null>(
      (most, part) => (!part.number && part.text && part.text.length > (most?.text.length ?? 0) ? part : most),
      null
    )
    if (!longest) break
    const others = bytesOf(joined()) - bytesOf(longest.text)
    longest.text = cutUntil(longest.text.slice(0, -1), text => {
      const room = text.length + joined().length - longest.text.length
      return room <= MOST_LETTERS && bytesOf(text) + others <= MOST_NAME_BYTES
    })
  }
  // a minus that a name begins with is part of the number, and is not trimmed with what stands before it
  const at = parts.findIndex(({ number }) => number)
  const minus =
    at >= 0 &&
    parts[at]!.text.startsWith('-') &&
    cleaned(
      parts
        .slice(0, at)
        .map(p => p.text)
        .join('')
    ) === ''
  return unreserved((minus ? '_-' : '') + joined())
}

/** Words in braces that are no field. */
export function unknownFields(pattern: string): string[] {
  return [...pattern.matchAll(/\{([^{}]*)\}/g)]
    .map(match => match[1]!)
    .filter(name => !(NAME_FIELDS as readonly string[]).includes(name))
}

/** A frame's number, filled up with zeros; a minus stands before them. */
export function frameNumber(number: number, digits: number): string {
  return (number < 0 ? '-' : '') + String(Math.abs(number)).padStart(digits, '0')
}

/**
 * What a name is to a disk that minds neither case nor how accents are composed: equal for names that would collide.
 */
export const nameKey = (name: string): string => name.normalize('NFC').toLowerCase().normalize('NFC')

/** Names that are apart on every disk, whatever case and accents they are written with. */
export class Names {
  private readonly taken: Set<string>

  constructor(names: Iterable<string> = []) {
    this.taken = new Set([...names].map(nameKey))
  }

  has(name: string): boolean {
    return this.taken.has(nameKey(name))
  }

  add(name: string): void {
    this.taken.add(nameKey(name))
  }

  /** The wanted name, or the first free one after it, which is taken from now on. */
  free(wanted: string): string {
    const name = freeName(wanted, each => this.has(each))
    this.add(name)
    return name
  }
}

/** The first of "name.ext", "name_2.ext", "name_3.ext" that is not `taken`. */
export function freeName(name: string, taken: (name: string) => boolean): string {
  if (!taken(name)) return name
  const dot = name.lastIndexOf('.')
  const [stem, extension] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, '']
  for (let n = 2; ; n++) if (!taken(`${stem}_${n}${extension}`)) return `${stem}_${n}${extension}`
}

/**
 * The name of a copy: the first of "name 2", "name 3" that is not taken, cut where it would be longer than `most`
 * letters.
 */
export function copyName(name: string, taken: readonly string[], most = 80): string {
  const stem = name.replace(/ \d+$/, '')
  for (let n = 2; ; n++) {
    const tail = ` ${n}`
    const tried = stem.slice(0, most - tail.length).trimEnd() + tail
    if (!taken.includes(tried)) return tried
  }
}
