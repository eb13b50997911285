/** Fields: two moments in alternate lines, made one. */
import type { Picture } from './picture'

/**
 * How far a line must stand out from both of its neighbours, on the same side, to be of another moment: of full, on
 * premultiplied values.
 */
const COMB = 0.06

/**
 * One moment of a picture that holds two: lines of the field that is kept stay, to the last bit; those of the other are
 * made from their neighbours, on premultiplied values. With `combedOnly` they are left where they fit between them,
 * which keeps still parts sharp.
 */
export function oneField(picture: Picture, keep: 'upper' | 'lower', combedOnly: boolean): Picture {
  const { width, height, rgba } = picture
  const line = 4 * width
  for (let y = keep === 'upper' ? 1 : 0; y < height; y += 2) {
    // at the rim there is one neighbour only
    const above = (y > 0 ? y - 1 : Math.min(height - 1, y + 1)) * line
    const below = (y + 1 < height ? y + 1 : Math.max(0, y - 1)) * line
    for (let x = 0, i = y * line; x < line; x += 4, i += 4) {
      const [a, up, down] = [rgba[i + 3]!, rgba[above + x + 3]!, rgba[below + x + 3]!]
      if (a + up + down === 0) continue
      if (combedOnly && !standsOut(a, up, down)) {
        let combs = false
        for (let c = 0; c < 3 && !combs; c++)
          combs = standsOut(rgba[i + c]! * a, rgba[above + x + c]! * up, rgba[below + x + c]! * down)
        if (!combs) continue
      }
      const sum = up + down
      for (let c = 0; c < 3; c++)
        rgba[i + c] = sum > 0 ? (rgba[above + x + c]! * up + rgba[below + x + c]! * down) / sum : 0
      rgba[i + 3] = sum / 2
    }
  }
  return picture
}

/** Whether a value lies beyond both of its neighbours on one side. */
function standsOut(value: number, above: number, below: number): boolean {
  const [up, down] = [value - above, value - below]
  return (up > COMB && down > COMB) || (up < -COMB && down < -COMB)
}
