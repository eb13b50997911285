/**
 * An SVG file as a drawing of any size. What is not drawn is named. Nothing outside the file is fetched and no program
 * in it runs.
 */
import { sentenceOf, unreadable } from '../../../base/errors'
import { MAX_PIXELS } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { Layer } from '../../scene/layer'
import type { Bitmap } from '../../scene/bitmap'
import { Draw } from './draw'
import { isCarried, pictureIn } from './picture'
import { Rules } from './rules'
import { lengthOf } from './shapes'
import { Typesetter } from './text'
import { leftOutOf } from './told'
import { everything, readTree, type Node } from './tree'
import { fitted, viewBoxOf, type ViewBox } from './viewport'
import { Work } from './work'

export interface Drawing {
  width: number
  height: number
  /** Features that are not drawn, in words. */
  leftOut: string[]
  /**
   * The same with its lettering set and the pictures within it read, which needs the machine; what of them cannot be is
   * left out by name. Rejects with one clear error where a type face is not at hand.
   */
  prepared(host: Host): Promise<Drawing>
  /** The picture at a size: premultiplied, in floating point. */
  at(width: number, height: number): Layer
}

/** Reads a drawing. Throws one clear error that names the file where it is damaged, too large or built too deep. */
export function readDrawing(text: string, file: string): Drawing {
  const root = readTree(text, file)
  const box = viewBoxOf(root.attributes.viewBox)
  const own = [
    lengthOf(root.attributes.width, box?.[2] ?? 0, NaN),
    lengthOf(root.attributes.height, box?.[3] ?? 0, NaN)
  ]
  const ratio = box ? box[3] / box[2] : 0.5
  const w = own[0]! > 0 ? own[0]! : own[1]! > 0 && box ? own[1]! / ratio : (box?.[2] ?? 300)
  const h = own[1]! > 0 ? own[1]! : box ? w * ratio : 150
  const [width, height] = [Math.max(1, Math.round(w)), Math.max(1, Math.round(h))]
  if (!(width * height <= MAX_PIXELS)) throw unreadable(file, null, `a picture of ${width}x${height} cannot be taken`)
  const leftOut = new Set<string>()
  const rules = new Rules(root, what => leftOut.add(what))
  const byId = new Map<string, Node>()
  for (const node of everything(root))
    if (node.attributes.id !== undefined && !byId.has(node.attributes.id)) byId.set(node.attributes.id, node)
  for (const what of leftOutOf(root, rules, byId)) leftOut.add(what)
  const pictures = new Map<Node, Bitmap>()
  const view: ViewBox = box ?? [0, 0, w, h]
  const size = [view[2], view[3]] as const
  let preparing: Promise<void> | null = null
  const prepare = async (host: Host): Promise<void> => {
    const setter = new Typesetter(rules, file, host)
    await setter.set(root, size)
    for (const what of setter.told) leftOut.add(what)
    for (const node of everything(root)) {
      const href = node.tag === 'image' ? (node.attributes.href ?? '') : ''
      if (!isCarried(href)) continue
      try {
        pictures.set(node, await pictureIn(href, file, host))
      } catch (error) {
        leftOut.add(`a picture within it (${sentenceOf(error)})`)
      }
    }
  }
  const drawing: Drawing = {
    width,
    height,
    get leftOut() {
      return [...leftOut]
    },
    async prepared(host) {
      await (preparing ??= prepare(host))
      return drawing
    },
    at: (wide, high) => {
      const at = fitted(view, [wide, high], box ? root.attributes.preserveAspectRatio : undefined)
      const extent = { wide, high, size, work: new Work(file), within: [], pictures }
      return new Draw(root, rules, byId, extent).all(at)
    }
  }
  return drawing
}
