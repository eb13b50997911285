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

/** A word fit for every file system: no separators, no control characters, no leading dot, 120 characters at most. */
export function safeName(text: string): string {
  const clean = text
    .normalize('NFC')

    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]+/g, '-')
    .replace(/\s+/g, '_')
    .replace(/^[.\-_]+|[.\-_]+$/g, '')
    .slice(0, 120)
  return clean === '' || RESERVED.test(clean) ? `_${clean}` : clean
}

/** Fills a pattern. Fields without a value vanish together with one separator before them. */
export function fillName(pattern: string, fields: NameFields): string {
  const filled = pattern.replace(/[ ._-]?\{([a-z]+)\}/g, (whole, name: string) => {
    const value = (fields as Record<string, string | undefined>)[name]
    const lead = whole.startsWith('{') ? '' : whole[0]!
    return value === undefined || value === '' ? '' : lead + value
  })
  return safeName(filled)
}

/** Words in braces that are no field. */
export function unknownFields(pattern: string): string[] {
  return [...pattern.matchAll(/\{([^{}]*)\}/g)]
    .map(match => match[1]!)
    .filter(name => !(NAME_FIELDS as readonly string[]).includes(name))
}

export function frameNumber(number: number, digits: number): string {
  return String(number).padStart(digits, '0')
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
