/** What is said of a picture that its file keeps turned. */
import { ORIENTATION_WORDS, orientedSize, type Orientation } from '../../frame/orient'
import type { PictureAbout } from './pictures'

/** The facts of the picture once it is upright, with a note of what was done. */
export function upright(about: PictureAbout, orientation: Orientation): PictureAbout {
  const done = ORIENTATION_WORDS[orientation]
  if (!done) return about
  const [width, height] = about.pixelAspect ?? [1, 1]
  return {
    ...orientedSize(about, orientation),
    ...(about.pixelAspect ? { pixelAspect: orientation < 5 ? [width, height] : [height, width] } : {}),
    findings: [
      ...(about.findings ?? []),
      {
        id: 'orientation',
        severity: 'note',
        frames: [],
        sentence: `The file keeps its picture turned (orientation ${orientation}); it is ${done} here, as the file asks.`,
        causes: 'Programs that ignore the field show it as it is stored. What Pour writes is upright.'
      }
    ]
  }
}
