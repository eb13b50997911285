/**
 * The type faces that ship with Pour, and the files each is kept in: letters beyond the first are sought in the next,
 * and those of other scripts in files that all faces share.
 */

export interface Face {
  readonly id: string
  readonly label: string
  /** Package and start of the file names. */
  readonly family: 'ibm-plex-sans' | 'ibm-plex-mono'
  readonly weight: 400 | 600 | 700
}

export const FACES = [
  { id: 'sans', label: 'Sans', family: 'ibm-plex-sans', weight: 400 },
  { id: 'sans-half-bold', label: 'Sans, half bold', family: 'ibm-plex-sans', weight: 600 },
  { id: 'sans-bold', label: 'Sans, bold', family: 'ibm-plex-sans', weight: 700 },
  { id: 'mono', label: 'Fixed width', family: 'ibm-plex-mono', weight: 400 }
] as const satisfies readonly Face[]

/** Scripts, each in a file of its own, in the order they are sought. */
export const SCRIPTS = ['latin', 'latin-ext', 'cyrillic', 'greek'] as const

/** Further scripts, each in a family of its own, in the three weights. */
const FURTHER = [
  { name: 'hebrew', letters: /[\p{Script=Hebrew}]/u },
  { name: 'arabic', letters: /[\p{Script=Arabic}]/u },
  { name: 'thai', letters: /[\p{Script=Thai}]/u },
  { name: 'devanagari', letters: /[\p{Script=Devanagari}]/u }
] as const

/** East Asian letters, in the regular weight alone: more would be megabytes. */
const EAST_ASIAN = 'ibm-plex-sans-jp'
const EAST = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\u3000-\u303f\u30fb\u30fc\uff00-\uffef]/u

/** File names of a face; not every family has every script. */
export const filesOfFace = ({ family, weight }: Face): string[] =>
  SCRIPTS.filter(script => family === 'ibm-plex-sans' || script !== 'greek').map(
    script => `${family}-${script}-${weight}-normal.woff`
  )

/** The shipped face of this id; the first of them where there is none such. */
export function faceById(id: string): Face {
  return FACES.find(face => face.id === id) ?? FACES[0]
}

/** The package that a file of a face is in. */
export function familyOf(file: string): string {
  const families = [EAST_ASIAN, ...FURTHER.map(({ name }) => `ibm-plex-sans-${name}`), 'ibm-plex-mono', 'ibm-plex-sans']
  return families.find(family => file.startsWith(`${family}-`)) ?? file
}

type Ranges = readonly (readonly [number, number])[]

/** Which of the East Asian files has which characters, as its package says. */
let eastern: Promise<[string, Ranges][]> | null = null
async function easternFiles(): Promise<[string, Ranges][]> {
  eastern ??= import('@fontsource/ibm-plex-sans-jp/unicode.json', { with: { type: 'json' } }).then(
    ({ default: said }) =>
      Object.entries(said).map(([subset, text]) => {
        const ranges = text.split(',').map(range => {
          const [from, to] = range.replace('U+', '').split('-')
          return [parseInt(from!, 16), parseInt(to ?? from!, 16)] as const
        })
        return [`${EAST_ASIAN}-${subset.replace(/[[\]]/g, '')}-400-normal.woff`, ranges]
      })
  )
  return eastern
}

/**
 * Files in which letters of other scripts, each with its marks, are to be sought, by weight; none for those of scripts
 * that none has. `lighter` are those that come in the regular weight alone, where a heavier was asked for.
 */
export async function filesBeside(
  { weight }: Face,
  letters: readonly string[]
): Promise<{ files: string[]; lighter: string[] }> {
  const files = FURTHER.filter(({ letters: own }) => letters.some(letter => own.test(letter))).map(
    ({ name }) => `ibm-plex-sans-${name}-${name}-${weight}-normal.woff`
  )
  const east = letters.filter(letter => EAST.test(letter))
  // a letter that is written apart from its mark is drawn as the one that has it
  const codes = new Set([...east.join('').normalize('NFC')].map(letter => letter.codePointAt(0)!))
  if (east.length)
    for (const [file, ranges] of await easternFiles())
      if ([...codes].some(code => ranges.some(([from, to]) => code >= from && code <= to))) files.push(file)
  return { files, lighter: weight > 400 ? east : [] }
}
