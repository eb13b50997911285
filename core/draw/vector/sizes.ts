/** Drawings have no size of their own that matters: they are drawn at the one asked for. */
import { impossible } from '../../base/errors'
import { MAX_PIXELS } from '../../frame/frame'
import type { SourceFacts } from '../../source/source'

interface Size {
  width: number
  height: number
}

const say = ({ width, height }: Size): string => `${width}x${height}`

/**
 * The size that "WxH" asks for; the drawing's own where nothing is asked for. Throws where it is no size, or too large.
 */
export function askedSize(asked: string | undefined, own: Size): Size {
  if (asked === undefined) return own
  const found = /^\s*(\d{1,5})\s*[x×]\s*(\d{1,5})\s*$/i.exec(asked)
  const size = { width: Number(found?.[1] ?? 0), height: Number(found?.[2] ?? 0) }
  if (!(size.width >= 1 && size.height >= 1))
    throw impossible(`“${asked}” is not a size to draw at; two numbers such as 1920x1080 are`)
  if (size.width * size.height > MAX_PIXELS) throw impossible(`a picture of ${asked} is larger than can be taken`)
  return size
}

/** Longest sides that are offered. */
const SIDES = [256, 512, 1024, 1920, 3840]

/** What a source's facts say of sizes: those offered, its own among them, and the one it is drawn at. */
export function sizesOf(own: Size, drawn: Size): Pick<SourceFacts, 'layers' | 'layer' | 'layersAre'> {
  const longest = Math.max(own.width, own.height)
  const offered = SIDES.map(side => ({
    width: Math.max(1, Math.round((own.width * side) / longest)),
    height: Math.max(1, Math.round((own.height * side) / longest))
  }))
  return { layers: [...new Set([own, ...offered, drawn].map(say))], layer: say(drawn), layersAre: 'sizes' }
}
