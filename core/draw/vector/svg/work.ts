/**
 * How much one drawing may ask for: a small file can draw itself without end, through uses and patterns of each other.
 */
import { unreadable } from '../../../base/errors'

const MOST_DRAWN = 100_000
/** Pixels of layers that effects and tiles may take in all: five hundred of a picture of 1080p. */
const MOST_LAYERS = 2 ** 30
/** And those that stand at once, 16 bytes each. */
const MOST_AT_ONCE = 2 ** 26
/** Looks at pixels that all paints may take: a thousand plain fills of a whole picture of 1080p. */
const MOST_PAINTED = 2 ** 31

/**
 * Counts what is drawn, tiles of patterns included. Throws one clear error that names the file where it is too much.
 */
export class Work {
  private things = 0
  private pixels = 0
  private standing = 0
  private looks = 0

  constructor(private readonly file: string) {}

  /** One more element that is drawn. */
  thing(): void {
    if (++this.things > MOST_DRAWN) throw unreadable(this.file, null, 'it draws more than can be taken')
  }

  /** A layer of so many pixels, for effects or a tile. */
  layer(pixels: number): void {
    this.pixels += pixels
    this.standing += pixels
    if (this.pixels > MOST_LAYERS || this.standing > MOST_AT_ONCE)
      throw unreadable(this.file, null, 'it filters, cuts, fades or tiles more than can be taken')
  }

  /** The layers that are taken while something is drawn are given back after it. */
  during(draw: () => void): void {
    const before = this.standing
    draw()
    this.standing = before
  }

  /** So many pixels laid, counted as often as the paint is looked at for each. */
  painted(looks: number): void {
    this.looks += looks
    if (this.looks > MOST_PAINTED) throw unreadable(this.file, null, 'it paints more than can be taken')
  }
}
