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

type Files = Map<string, Promise<TypeFile>>
/** Files that ship, by their names, and those of scenes, by what they hold: once a host. */
const opened = new WeakMap<Host, { shipped: Files; own: Files }>()
/** Files of scenes that are kept: those that were asked for last. */
const MOST_OWN = 8

function openedOn(host: Host): { shipped: Files; own: Files } {
  const known = opened.get(host) ?? { shipped: new Map(), own: new Map() }
  opened.set(host, known)
  return known
}

/** A file that is opened once; the one that was asked for last stands last. */
function once(files: Files, key: string, open: () => Promise<TypeFile>): Promise<TypeFile> {
  const file = files.get(key) ?? open()
  files.delete(key)
  files.set(key, file)
  file.catch(() => files.delete(key))
  return file
}

function ownFont(host: Host, face: CarriedFace): Promise<TypeFile> {
  const { own } = openedOn(host)
  const file = once(own, face.data, () => ownFile(host, face))
  for (const key of own.keys()) if (own.size > MOST_OWN) own.delete(key)
  return file
}

const shippedFonts = (host: Host, names: readonly string[]): Promise<TypeFile[]> =>
  Promise.all(names.map(name => once(openedOn(host).shipped, name, () => shippedFile(host, name))))

/** A font file of the scene's own. Rejects with one clear error that names it where it cannot be read. */
async function ownFile(host: Host, { name, data }: CarriedFace): Promise<TypeFile> {
  const refused = (why: string): PourError => unreadable(name, null, why)
  const bytes = fromBase64(data)
  if (!bytes) throw refused('its type face is not a file in base64')
  if (!isFont(bytes)) throw refused('this is not a TrueType, OpenType or WOFF file')
  const shaper = shaperOf(host)
  try {
    const file = await shaper.open(await sfntOf(bytes, shaper))
    if (file.glyphs === 0) throw new Error('it has no letters')
    return file
  } catch (error) {
    throw damagedBy(error, why => refused(`the type face cannot be read (${why})`))
  }
}

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
  const first = own ? [await ownFont(host, own)] : await shippedFonts(host, filesOfFace(shipped))
  const lacking = clustersOf(text)
    .map(({ segment }) => segment)
    .filter(letter => letter.trim() && !first.some(file => has(file, letter)))
  if (!lacking.length) return { files: first, told: [] }
  const told: string[] = []
  const beside = await filesBeside(shipped, lacking)
  const names = [...(own ? filesOfFace(shipped) : []), ...beside.files]
  const files = [...first, ...(await shippedFonts(host, names))]
  const found = lacking.filter(letter => files.some(file => has(file, letter)))
  const lighter = found.filter(letter => beside.lighter.includes(letter))
  if (own && found.length) told.push(`The type face ${own.name} has no ${said(found)}; Pour's own letters it.`)
  if (lighter.length) told.push(`East Asian letters (${said(lighter)}) come in the regular weight alone.`)
  return { files, told }
}
