/** Type faces that a scene carries along: taken in from font files, and given ids of their own. */
import { unreadable } from '../../base/errors'
import { toBase64 } from '../../base/files/base64'
import { isFont } from '../type/sfnt'
import { kindOf } from './elements/kinds'
import type { Scene } from './scene'
import { MOST, type OwnFace } from './values'

/** Bytes a font file may have: base64 makes four letters of three of them. */
export const MOST_FONT_BYTES = Math.floor((MOST.font * 3) / 4) - 3

/** Whether a file of this name may be a font. */
export const isFontName = (name: string): boolean => /\.(ttf|otf|woff2?)$/i.test(name)

/**
 * A font file as a face of the scene, under an id that it has not yet. Throws one clear error where it cannot be one.
 */
export function ownFace(scene: Pick<Scene, 'faces'>, file: string, bytes: Uint8Array): OwnFace {
  const faces = scene.faces ?? []
  const refused = (why: string): Error => unreadable(file, null, why)
  if (faces.length >= MOST.fonts) throw refused(`a scene carries ${MOST.fonts} type faces at most`)
  if (bytes.length > MOST_FONT_BYTES)
    throw refused(`a scene carries type faces of up to ${Math.floor(MOST_FONT_BYTES / 1e6)} MB`)
  if (!isFont(bytes)) throw refused('this is not a TrueType, OpenType or WOFF file')
  let n = 1
  while (faces.some(({ id }) => id === `own-${n}`)) n++
  const name =
    file
      .replace(/^.*\//, '')
      .replace(/\.[^.]*$/, '')
      .slice(0, 80) || 'type face'
  return { id: `own-${n}`, name, data: toBase64(bytes) }
}

/** Takes a face away; lettering that used it is set in the one that ships. Changes the scene. */
export function removeFace(scene: Scene, id: string): void {
  const left = (scene.faces ?? []).filter(face => face.id !== id)
  if (left.length) scene.faces = left
  else delete scene.faces
  for (const { look } of scene.elements)
    for (const lettered of kindOf(look).lettered?.(look) ?? []) if (lettered.face === id) lettered.face = 'sans'
}
