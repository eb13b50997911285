/** What is said of a picture that its file keeps turned. */
import { orientedSize, type Orientation } from '../../../frame/orient'
import { turnedFindings } from '../../../source/turned'
import type { PictureAbout } from './pictures'

/** The facts of the picture once it is upright, with a note of what was done. */
export function upright(about: PictureAbout, orientation: Orientation): PictureAbout {
  if (orientation === 1) return about
  const [width, height] = about.pixelAspect ?? [1, 1]
  return {
    ...orientedSize(about, orientation),
    ...(about.pixelAspect ? { pixelAspect: orientation < 5 ? [width, height] : [height, width] } : {}),
    findings: [...(about.findings ?? []), ...turnedFindings(orientation)]
  }
}
