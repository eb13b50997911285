/** Type faces, parsed: those that ship with Pour, and those a scene carries along. */
import * as library from 'opentype.js'
import type { Font } from 'opentype.js'
import { damagedBy, unreachable, unreadable, type PourError } from '../../base/errors'
import { fromBase64 } from '../../base/files/base64'
import type { Host } from '../../frame/host'
import { faceById, filesOfFace } from './faces'
import { bareFont, isFont } from './font-check'
import { noteKerning } from './kerning'

// as one package it exports names, as the other only the whole of itself
const { parse } = 'parse' in library ? library : (Reflect.get(library, 'default') as typeof library)

/** A font file that goes along with what it letters, in base64. */
export interface CarriedFace {
  id: string
  name: string
  data: string
}

const loaded = new WeakMap<Host, Map<string, Promise<Font[]>>>()

/** The outlines of a font file of the scene's own. Throws one clear error that names it where it cannot be read. */
function ownFont({ name, data }: CarriedFace): Font {
  const refused = (why: string): PourError => unreadable(name, null, why)
  const bytes = fromBase64(data)
  if (!bytes) throw refused('its type face is not a file in base64')
  if (!isFont(bytes)) throw refused('this is not a TrueType, OpenType or WOFF file')
  try {
    const font = parse(bareFont(bytes).buffer)
    if (!(font.unitsPerEm > 0) || font.glyphs.length === 0) throw new Error('it has no letters')
    return font
  } catch (error) {
    throw damagedBy(error, why => refused(`the type face cannot be read (${why})`))
  }
}

const own = new WeakMap<CarriedFace, Font>()

/** The files of a face, read once a host; one of the scene's own is a single file. */
export async function fontsOf(host: Host, id: string, faces: readonly CarriedFace[]): Promise<Font[]> {
  const mine = faces.find(face => face.id === id)
  if (mine) {
    let font = own.get(mine)
    if (!font) own.set(mine, (font = ownFont(mine)))
    return [font]
  }
  return shippedFonts(host, id)
}

/** The files of a face that ships with Pour, read once a host. Rejects where they are not at hand. */
export async function shippedFonts(host: Host, id: string): Promise<Font[]> {
  let faces = loaded.get(host)
  if (!faces) loaded.set(host, (faces = new Map()))
  let fonts = faces.get(id)
  if (!fonts) {
    const { font } = host
    if (!font) throw unreachable('this machine has no type faces')
    fonts = Promise.all(
      filesOfFace(faceById(id)).map(async name => {
        const bytes = await font(name)
        try {
          const font = parse(bytes)
          noteKerning(font, new Uint8Array(bytes))
          return font
        } catch (error) {
          throw damagedBy(error, why => unreachable(`the type face ${name} cannot be read (${why})`))
        }
      })
    )
    faces.set(id, fonts)
    fonts.catch(() => faces.delete(id))
  }
  return fonts
}
