/** Type faces, opened: those that ship with Pour, and those a scene carries along. */
import { damagedBy, unreachable, unreadable, type PourError } from '../../base/errors'
import { fromBase64 } from '../../base/files/base64'
import type { Host, Shaper, TypeFile } from '../../frame/host'
import { faceById, filesBeside, filesOfFace } from './faces'
import { isFont, sfntOf } from './sfnt'

/** A font file that goes along with what it letters, in base64. */
export interface CarriedFace {
  id: string
  name: string
  data: string
}

/** What a text is lettered in. */
export interface Fonts {
  /** Files in the order in which a letter is sought in them. */
  files: readonly TypeFile[]
  /** What is lettered otherwise than asked for, a sentence each. */
  told: readonly string[]
}

function shaperOf(host: Host): Shaper {
  if (!host.shaper) throw unreachable('this machine cannot set letters')
  return host.shaper
}

const opened = new WeakMap<Host, Map<string, Promise<TypeFile>>>()

/** A file that is opened once a host; of those of scenes the last few are kept, by what they hold. */
function once(host: Host, key: string, open: () => Promise<TypeFile>): Promise<TypeFile> {
  let files = opened.get(host)
  if (!files) opened.set(host, (files = new Map()))
  let file = files.get(key)
  if (!file) {
    file = open()
    files.set(key, file)
    file.catch(() => files.delete(key))
    const own = [...files.keys()].filter(name => name.length > 200)
    if (own.length > MOST_OWN) files.delete(own[0]!)
  }
  return file
}
const MOST_OWN = 8

/** A font file of the scene's own. Rejects with one clear error that names it where it cannot be read. */
async function ownFile(host: Host, { name, data }: CarriedFace): Promise<TypeFile> {
  const refused = (why: string): PourError => unreadable(name, null, why)
  const bytes = fromBase64(data)
  if (!bytes) throw refused('its type face is not a file in base64')
  if (!isFont(bytes)) throw refused('this is not a TrueType, OpenType or WOFF file')
  const shaper = shaperOf(host)
  try {
    const file = await shaper.open(await sfntOf(bytes, shaper))
    if (!LETTERS.some(letter => has(file, letter))) throw new Error('it has no letters')
    return file
  } catch (error) {
    throw damagedBy(error, why => refused(`the type face cannot be read (${why})`))
  }
}

/** A font has one of these, whatever it is for. */
const LETTERS = [' ', 'a', 'A', '0', '\u00a0', 'א', 'ا', 'あ', '一', '가', 'क', 'ก', 'α', 'я', '\uf020', '\uf061']

async function shippedFile(host: Host, name: string): Promise<TypeFile> {
  const { font } = host
  if (!font) throw unreachable('this machine has no type faces')
  const shaper = shaperOf(host)
  const bytes = new Uint8Array(await font(name))
  try {
    return await shaper.open(await sfntOf(bytes, shaper))
  } catch (error) {
    throw damagedBy(error, why => unreachable(`the type face ${name} cannot be read (${why})`))
  }
}

const known = new WeakMap<TypeFile, Map<string, boolean>>()
/** Clusters that are remembered of one file. */
const MOST_KNOWN = 5000

/** Whether a file has all that a few characters come to, composed or apart. */
export function has(file: TypeFile, text: string): boolean {
  let found = known.get(file)
  if (!found || found.size > MOST_KNOWN) known.set(file, (found = new Map()))
  let is = found.get(text)
  if (is === undefined) {
    const glyphs = file.shape(text, { from: 0, to: text.length, rightToLeft: false, features: '' })
    found.set(text, (is = glyphs.length > 0 && glyphs.every(({ glyph }) => glyph !== 0)))
  }
  return is
}

const graphemes = new Intl.Segmenter('und', { granularity: 'grapheme' })

/** Letters of a text, each with its marks (Unicode Standard Annex 29). */
export const clustersOf = (text: string): Intl.SegmentData[] => [...graphemes.segment(text)]

const said = (letters: Iterable<string>): string => {
  const each = [...new Set(letters)]
  return `${each.slice(0, 8).join(' ')}${each.length > 8 ? ` and ${each.length - 8} more` : ''}`
}

/**
 * What a text is lettered in: the face of this id, and where it lacks letters, the files that have them. Rejects with
 * one clear error where a file cannot be read or is not at hand.
 */
export async function fontsFor(
  host: Host,
  id: string,
  text: string,
  faces: readonly CarriedFace[] = []
): Promise<Fonts> {
  const own = faces.find(face => face.id === id)
  const shipped = faceById(own ? 'sans' : id)
  const open = (names: readonly string[]): Promise<TypeFile[]> =>
    Promise.all(names.map(name => once(host, name, () => shippedFile(host, name))))
  const first = own ? [await once(host, own.data, () => ownFile(host, own))] : await open(filesOfFace(shipped))
  const lacking = clustersOf(text)
    .map(({ segment }) => segment)
    .filter(letter => letter.trim() && !first.some(file => has(file, letter)))
  if (!lacking.length) return { files: first, told: [] }
  const told: string[] = []
  const files = [...first, ...(own ? await open(filesOfFace(shipped)) : [])]
  const beside = await filesBeside(shipped, lacking.join(''))
  files.push(...(await open(beside.files)))
  const found = lacking.filter(letter => files.some(file => has(file, letter)))
  if (own && found.length) told.push(`The type face ${own.name} has no ${said(found)}; Pour's own letters it.`)
  if (beside.lighter) told.push(`East Asian letters (${said(beside.lighter)}) come in the regular weight alone.`)
  return { files, told }
}
