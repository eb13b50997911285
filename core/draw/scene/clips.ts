/** Other sources within a scene: films, sequences and scenes, shown from the moment their element comes. */
import { unreadable } from '../../base/errors'
import { withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import type { Frame } from '../../frame/frame'
import { coded } from '../../frame/transfer'
import type { Kernels } from '../../frame/kernels/kernels'
import type { Rate } from '../../base/rate'
import type { Source, SourceFacts } from '../../source/source'
import type { Bitmap } from './bitmap'
import type { ClipLook } from './elements/clip'
import type { Element, Scene } from './scene'
import { keyed } from './timing'

/** Sources that a scene shows, opened, by the name it gives them. */
export type ClipSources = ReadonlyMap<string, Source>

/** The looks of a scene that show other sources. */
export const clipsOf = ({ elements }: Scene): ClipLook[] =>
  elements.flatMap(({ look }) => (look.kind === 'clip' ? [look] : []))

/**
 * The picture of a clip so many seconds from the first that is shown: its own rate counts, or the scene's where it has
 * none. What comes after its last is the last again, or that first; backwards, its very first, or that first again.
 */
export function pictureAt(
  { from, ends }: Pick<ClipLook, 'from' | 'ends'>,
  { frames, rate }: Pick<SourceFacts, 'frames' | 'rate'>,
  sceneRate: Rate,
  seconds: number
): number {
  const [n, d] = rate ?? sceneRate
  const first = Math.min(from, frames - 1)
  // a hair's breadth, so that a time that is a frame's own is that frame's
  const far = Math.floor(Math.abs(seconds) * (n / d) + 1e-6)
  if (seconds < 0) {
    if (far <= first) return first - far
    return ends === 'holds' ? 0 : first - (far % (first + 1))
  }
  const length = frames - first
  if (far < length) return first + far
  return ends === 'holds' ? frames - 1 : first + (far % length)
}

/**
 * Seconds of its source that an element shows at a time of the scene, from its first picture on: its own values over
 * time, else those since it came, times its speed. Below none it goes backwards.
 */
export function secondsShown(
  element: Element,
  { speed = 1 }: Pick<ClipLook, 'speed'>,
  since: number,
  at: number
): number {
  return keyed(element, 'seconds', since * speed, at)
}

/** A frame as scenes hold pictures: premultiplied on black, in floating point, as screens see it. */
export function bitmapOfFrame(frame: Frame, kernels: Kernels): Bitmap {
  const seen = withDepth(coded(frame, kernels), 32, kernels)
  const { width, height, samples } = withAlphaMode(seen, { mode: 'premultiplied', matte: '#000000' }, kernels)
  return { width, height, pixels: samples as Float32Array }
}

/** Pixels of one clip that are held at once: 16 bytes each. */
const MOST_AT_ONCE = 64 << 20

/** Pictures of the clips of a scene, by their element: those of the frame that is rendered, and no others. */
export class ClipPictures {
  private readonly kept = new Map<string, Map<number, Bitmap>>()

  constructor(
    private readonly scene: Pick<Scene, 'name' | 'rate'>,
    private readonly shown: ClipSources,
    private readonly kernels: Kernels
  ) {}

  private sourceOf({ name }: Element, look: ClipLook): Source {
    const source = this.shown.get(look.source)
    if (source) return source
    throw unreadable(this.scene.name, `element ${name}`, `it shows "${look.title}", and that source is not at hand`)
  }

  /** Which picture an element shows at a time, `since` seconds on. Throws where its source is not at hand. */
  indexAt(element: Element, look: ClipLook, since: number, at: number): number {
    const seconds = secondsShown(element, look, since, at)
    return pictureAt(look, this.sourceOf(element, look).facts, this.scene.rate, seconds)
  }

  /** Has these pictures of an element at hand, and lets others go. */
  async fetch(element: Element, look: ClipLook, indices: readonly number[]): Promise<void> {
    const source = this.sourceOf(element, look)
    const { width, height } = source.facts
    const wanted = new Set(indices).size
    if (wanted > 1 && wanted * width * height > MOST_AT_ONCE)
      throw unreadable(
        this.scene.name,
        `element ${element.name}`,
        `its copies and moments show ${wanted} pictures of ${width}x${height} at once, more than are held in memory`
      )
    const before = this.kept.get(element.id)
    const now = new Map<number, Bitmap>()
    for (const index of new Set(indices))
      now.set(index, before?.get(index) ?? bitmapOfFrame(await source.frame(index), this.kernels))
    this.kept.set(element.id, now)
  }

  /** A picture that was fetched. */
  get({ id }: Element, index: number): Bitmap {
    const bitmap = this.kept.get(id)?.get(index)
    if (!bitmap) throw new TypeError('a picture of a clip was drawn before it was fetched')
    return bitmap
  }
}
