/**
 * The type faces that ship with Pour, and the files each is kept in: letters beyond the first are sought in the next.
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

/** File names of a face; not every family has every script. */
export const filesOfFace = ({ family, weight }: Face): string[] =>
  SCRIPTS.filter(script => family === 'ibm-plex-sans' || script !== 'greek').map(
    script => `${family}-${script}-${weight}-normal.woff`
  )

/** The shipped face of this id; the first of them where there is none such. */
export function faceById(id: string): Face {
  return FACES.find(face => face.id === id) ?? FACES[0]
}
