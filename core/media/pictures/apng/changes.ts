/**
 * Frames of an animation as what changed since the one before, code for code. Two ways are tried: laying the changed
 * rectangle on the frame before, or wiping the canvas and laying what is there now. Which of them serves depends on how
 * the frame before was laid, so both travel to the assembler, which chooses.
 */
import type { Deliverable } from '../../formats/deliverable'
import { cut } from '../../../frame/cut'
import type { Box } from '../../../base/settings/box'
import type { Frame, Samples } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { encodePixels } from '../png/encode'

/** One way of laying a frame. */
export interface ApngFrame extends Box {
  blend: 'source' | 'over'
  /** Whether all that is not clear black lies within, so that wiping the box wipes the canvas. */
  wipes: boolean
  data: Uint8Array
}

export interface Ways {
  /** On what is there. */
  kept: ApngFrame
  /** On a canvas that was wiped; null where that would not be shorter. */
  wiped: ApngFrame | null
}

/** A pixel as one number for comparing: 32 bits at 8-bit depth, two words of 32 bits at 16. */
function wordsOf(samples: Samples): { words: Uint32Array; each: 1 | 2 } {
  return {
    words: new Uint32Array(samples.buffer, samples.byteOffset, samples.byteLength / 4),
    each: samples instanceof Uint8Array ? 1 : 2
  }
}

/** The smallest box around pixels that differ from `before`, or from clear black; null when there are none. */
export function changedBox(frame: Frame, before: Frame | null): Box | null {
  const { width, height } = frame
  const { words, each } = wordsOf(frame.samples)
  const old = before ? wordsOf(before.samples).words : null
  const row = width * each
  const differs = (i: number): boolean => words[i] !== (old ? old[i] : 0)
  const rowDiffers = (y: number): boolean => {
    for (let i = y * row; i < (y + 1) * row; i++) if (differs(i)) return true
    return false
  }
  let top = 0
  while (top < height && !rowDiffers(top)) top++
  if (top === height) return null
  let bottom = height
  while (!rowDiffers(bottom - 1)) bottom--
  let [left, right] = [row, 0]
  for (let y = top; y < bottom; y++) {
    let i = 0
    while (i < left && !differs(y * row + i)) i++
    left = Math.min(left, i)
    let j = row
    while (j > right && !differs(y * row + j - 1)) j--
    right = Math.max(right, j)
  }
  const x = Math.floor(left / each)
  return { x, y: top, width: Math.ceil(right / each) - x, height: bottom - top }
}

function within(inner: Box | null, outer: Box): boolean {
  return (
    !inner ||
    (inner.x >= outer.x &&
      inner.y >= outer.y &&
      inner.x + inner.width <= outer.x + outer.width &&
      inner.y + inner.height <= outer.y + outer.height)
  )
}

/**
 * The changed box with clear black where nothing changed, for laying over; null where that could not give the same
 * codes: a changed pixel must be solid, or lie where nothing could be seen before.
 */
function overlay(part: Frame, old: Frame): Frame | null {
  const { words, each } = wordsOf(part.samples)
  const former = wordsOf(old.samples).words
  const full = part.depth === 8 ? 255 : 65535
  const samples = part.samples.slice()
  let same = 0
  for (let p = 0; p < part.width * part.height; p++) {
    if (words[p * each] === former[p * each] && (each === 1 || words[p * each + 1] === former[p * each + 1])) {
      samples.fill(0, 4 * p, 4 * p + 4)
      same++
    } else {
      const a = part.samples[4 * p + 3]!
      if (a !== full && (a === 0 || old.samples[4 * p + 3] !== 0)) return null
    }
  }
  // where little stayed the same there is little to gain
  return same * 8 > part.width * part.height ? { ...part, samples } : null
}

const NOTHING: Box = { x: 0, y: 0, width: 1, height: 1 }

/**
 * Codes a frame both ways. With no frame before, the whole canvas is laid; `laysOver` allows a frame to be blended over
 * the one before.
 */
export function waysOf(host: Host, frame: Frame, before: Frame | null, laysOver = true): Ways {
  const content = changedBox(frame, null)
  const lay = (box: Box, picture: Frame, blend: ApngFrame['blend']): ApngFrame => ({
    ...box,
    blend,
    wipes: within(content, box),
    data: encodePixels(host, picture)
  })
  if (!before)
    return { kept: lay({ x: 0, y: 0, width: frame.width, height: frame.height }, frame, 'source'), wiped: null }
  const box = changedBox(frame, before) ?? NOTHING
  const part = cut(frame, box)
  let kept = lay(box, part, 'source')
  // without an alpha channel nothing can be laid over, nor a wiped canvas be seen through
  if (frame.alpha.mode === 'none') return { kept, wiped: null }
  const over = laysOver ? overlay(part, cut(before, box)) : null
  if (over) {
    const laid = lay(box, over, 'over')
    if (laid.data.length < kept.data.length) kept = laid
  }
  const place = content ?? NOTHING
  const smaller = place.width * place.height < 0.9 * box.width * box.height
  return { kept, wiped: smaller ? lay(place, cut(frame, place), 'source') : null }
}

const HEAD = 22

/** Both ways as bytes, for their journey to the assembler: for each a head of box, flags and length, then its data. */
export function packWays({ kept, wiped }: Ways): Uint8Array {
  const all = wiped ? [kept, wiped] : [kept]
  const bytes = new Uint8Array(all.reduce((sum, way) => sum + HEAD + way.data.length, 0))
  const view = new DataView(bytes.buffer)
  let at = 0
  for (const way of all) {
    ;[way.x, way.y, way.width, way.height, way.data.length].forEach((value, i) => view.setUint32(at + 4 * i, value))
    bytes[at + 20] = way.blend === 'over' ? 1 : 0
    bytes[at + 21] = way.wipes ? 1 : 0
    bytes.set(way.data, at + HEAD)
    at += HEAD + way.data.length
  }
  return bytes
}

/** The ways of laying a frame, from the bytes that `packWays` made. */
export function unpackWays(bytes: Uint8Array): Ways {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const read = (at: number): ApngFrame => {
    const [x, y, width, height, length] = [0, 4, 8, 12, 16].map(i => view.getUint32(at + i)) as [
      number,
      number,
      number,
      number,
      number
    ]
    return {
      x,
      y,
      width,
      height,
      blend: bytes[at + 20] ? 'over' : 'source',
      wipes: bytes[at + 21] === 1,
      data: bytes.subarray(at + HEAD, at + HEAD + length)
    }
  }
  const kept = read(0)
  const next = HEAD + kept.data.length
  return { kept, wiped: next < bytes.length ? read(next) : null }
}

/** Whether frames may be blended over those before: some readers of 16 bits stop at the first that is. */
export function laysOver({ options, depth }: Pick<Deliverable, 'options' | 'depth'>): boolean {
  return options.over === 'always' || (options.over !== 'never' && depth === 8)
}

/** Whether a delivery's frames are coded as what changed. */
export function optimises({ options }: Pick<Deliverable, 'options'>): boolean {
  return options.optimise !== false
}
