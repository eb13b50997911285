/**
 * Vector animations in JSON (Lottie, as its community's specification has it): what a file says of itself, and which of
 * its features may not be drawn. The drawing is the host's.
 */
import { z } from 'zod'
import { unreadable } from '../../base/errors'
import { MAX_PIXELS } from '../../frame/frame'
import { parseRate, type Rate } from '../../base/rate'

const Head = z.object({
  w: z.number(),
  h: z.number(),
  fr: z.number(),
  ip: z.number(),
  op: z.number(),
  layers: z.array(z.unknown()),
  assets: z.array(z.record(z.string(), z.unknown())).optional(),
  fonts: z.object({ list: z.array(z.record(z.string(), z.unknown())).optional() }).optional(),
  chars: z.array(z.unknown()).optional(),
  markers: z.array(z.record(z.string(), z.unknown())).optional()
})

/** Letters of a file: pictures may lie within it. */
export const MOST_BYTES = 32 << 20
const MOST_FRAMES = 20_000
/** How deep layers, shapes and properties may lie within each other. */
const MOST_DEEP = 200
const MOST_THINGS = 2_000_000

interface Marker {
  name: string
  /** From 1. */
  from: number
  to: number
}

export interface VectorAnimation {
  width: number
  height: number
  frames: number
  rate: Rate
  /** The first frame's number, by which the host is asked. */
  first: number
  markers: Marker[]
  /** Features that are left out, in words. */
  leftOut: string[]
}

/** True where the JSON is such an animation: it has a size, a rate, two ends and layers. */
export function looksLikeAnimation(data: unknown): boolean {
  return Head.safeParse(data).success
}

/** Kinds of layers by number that draw nothing here. */
const LAYERS: Readonly<Record<number, string>> = { 6: 'sound', 9: 'film within it', 13: 'a camera', 15: 'data' }

/** Parts of shape layers that are drawn, held by a test; any other is left out. */
const SHAPES = new Set('gr rc el sr sh fl st gf gs tr tm mm rp rd op pb'.split(' '))
const SHAPE_NAMES: Readonly<Record<string, string>> = { zz: 'zig-zag', tw: 'twist', no: 'a style of strokes' }
/** Effects by number that are drawn, held by the same test: tint, fill, three tones, a shadow that is cast, blur. */
const EFFECTS = new Set([20, 21, 23, 25, 29])
/** Layer styles by number: two shadows, two glows and a colour are drawn. */
const STYLES = new Set([1, 2, 3, 4, 7])
const STYLE_NAMES: Readonly<Record<number, string>> = { 0: 'a stroke', 5: 'a bevel', 6: 'satin', 8: 'a gradient' }

const list = (value: unknown): Record<string, unknown>[] =>
  Array.isArray(value)
    ? value.filter((each): each is Record<string, unknown> => typeof each === 'object' && each !== null)
    : []
const named = (value: unknown, otherwise: string): string =>
  typeof value === 'string' && value.trim() ? `“${value.trim().slice(0, 40)}”` : otherwise

/** What is not drawn of a layer's own parts: its shapes, its effects, its styles. */
function* undrawn(own: Record<string, unknown>): Generator<string> {
  for (const { ty, hd } of [...list(own.shapes), ...list(own.it)])
    if (typeof ty === 'string' && hd !== true && !SHAPES.has(ty))
      yield SHAPE_NAMES[ty] ?? `a shape of the kind “${ty.slice(0, 20)}”`
  if (typeof own.ty !== 'number' || !('ip' in own)) return
  for (const { ty, nm, mn, en } of list(own.ef)) {
    // a control holds a value for expressions, and draws nothing anywhere
    const control = [nm, mn].some(name => typeof name === 'string' && /control/i.test(name))
    if (en !== 0 && en !== false && !control && !EFFECTS.has(Number(ty)))
      yield `the effect ${named(nm, `number ${Number(ty)}`)}, which may not be drawn`
  }
  for (const { ty, nm } of list(own.sy))
    if (!STYLES.has(Number(ty))) yield `the layer style ${named(nm, STYLE_NAMES[Number(ty)] ?? `number ${Number(ty)}`)}`
}

/** Walks all of it, and collects what may not be drawn. Throws where it lies too deep or is too long. */
function leftOutOf(data: z.infer<typeof Head>, file: string): string[] {
  const found = new Set<string>()
  let things = 0
  const visit = (value: unknown, depth: number): void => {
    if (depth > MOST_DEEP || ++things > MOST_THINGS)
      throw unreadable(file, null, 'it is built deeper or longer than any animation needs')
    if (Array.isArray(value)) for (const each of value) visit(each, depth + 1)
    else if (value && typeof value === 'object') {
      const own = value as Record<string, unknown>
      // a property whose values a program text decides
      if (typeof own.x === 'string' && ('k' in own || 'a' in own)) found.add('expressions, which never run here')
      if (typeof own.ty === 'number' && 'ip' in own && 'op' in own && LAYERS[own.ty]) found.add(LAYERS[own.ty]!)
      if (own.hd !== true) for (const what of undrawn(own)) found.add(what)
      for (const each of Object.values(own)) visit(each, depth + 1)
    }
  }
  visit(data.layers, 0)
  visit(data.assets ?? [], 0)
  for (const asset of data.assets ?? []) {
    const place = asset.p
    if (typeof place === 'string' && !place.startsWith('data:'))
      found.add(`the picture “${place.slice(0, 60)}”, which lies outside the file`)
  }
  if (!data.chars?.length)
    for (const font of data.fonts?.list ?? [])
      found.add(
        `lettering in ${typeof font.fFamily === 'string' ? font.fFamily.slice(0, 40) : 'a type face'}, whose ` +
          'outlines are not in the file'
      )
  return [...found]
}

/** Layers that a frame may come to once compositions within compositions and repeated shapes are counted out. */
const MOST_SHOWN = 50_000
const MOST_NESTED = 60

/** How often shapes are drawn that stand before a repeater among them. */
function shapesShown(shapes: readonly Record<string, unknown>[], depth = 0): number {
  let shown = 0
  for (const shape of shapes) {
    if (shape.ty === 'gr') shown += depth > MOST_NESTED ? Infinity : shapesShown(list(shape.it), depth + 1)
    else if (shape.ty === 'rp') shown *= Math.max(1, mostOf(shape.c))
    else shown++
  }
  return shown
}

/** The largest value of a property, still or with keys. */
function mostOf(property: unknown): number {
  const { k } = (typeof property === 'object' && property !== null ? property : {}) as { k?: unknown }
  if (typeof k === 'number') return k
  return Math.max(
    0,
    ...list(k)
      .flatMap(({ s }) => (Array.isArray(s) ? s : [s]))
      .map(value => Number(value) || 0)
  )
}

/** Throws where a small file comes to more than can be drawn, by compositions that show each other over and over. */
function refuseEndless({ layers, assets }: z.infer<typeof Head>, file: string): void {
  const byId = new Map(
    (assets ?? []).flatMap(asset => (typeof asset.id === 'string' ? [[asset.id, asset] as const] : []))
  )
  const counted = new Map<string, number>()
  const within = new Set<string>()
  const shownIn = (all: readonly Record<string, unknown>[]): number => {
    let shown = 0
    for (const layer of all) {
      shown += 1 + shapesShown(list(layer.shapes))
      if (layer.ty !== 0 || typeof layer.refId !== 'string') continue
      const id = layer.refId
      if (within.has(id)) throw unreadable(file, null, 'a composition in it shows itself')
      if (within.size >= MOST_NESTED) throw unreadable(file, null, 'its compositions lie deeper than can be taken')
      within.add(id)
      const known = counted.get(id) ?? shownIn(list(byId.get(id)?.layers))
      within.delete(id)
      counted.set(id, known)
      shown += known
    }
    if (!(shown <= MOST_SHOWN))
      throw unreadable(file, null, `its compositions show more than ${MOST_SHOWN} layers and shapes at once`)
    return shown
  }
  shownIn(list(layers))
}

/** What the file says of itself. Throws one clear error where it cannot be an animation. */
export function readAnimation(text: string, file: string): VectorAnimation {
  let parsed: unknown
  try {
    parsed = JSON.parse(text)
  } catch {
    throw unreadable(file, null, 'this is not a complete JSON file; it was cut short or is damaged')
  }
  const read = Head.safeParse(parsed)
  if (!read.success)
    throw unreadable(file, null, 'this is not a vector animation: size, rate, ends or layers are missing')
  refuseEndless(read.data, file)
  const { w, h, fr, ip, op, markers } = read.data
  const [width, height] = [Math.round(w), Math.round(h)]
  if (!(width >= 1 && height >= 1 && width * height <= MAX_PIXELS))
    throw unreadable(file, null, `a picture of ${w}x${h} cannot be taken`)
  const rate = parseRate(String(fr))
  if (!rate || !(fr > 0 && fr <= 1000)) throw unreadable(file, null, `a rate of ${fr} frames a second cannot be taken`)
  const frames = Math.round(op - ip)
  if (!(frames >= 1 && frames <= MOST_FRAMES))
    throw unreadable(file, null, `it claims ${op - ip} frames; from 1 to ${MOST_FRAMES} can be taken`)
  return {
    width,
    height,
    frames,
    rate,
    first: ip,
    markers: (markers ?? []).slice(0, 200).flatMap(marker => {
      const [at, lasts] = [Number(marker.tm), Number(marker.dr)]
      const name = typeof marker.cm === 'string' ? marker.cm.trim().slice(0, 60) : ''
      if (!name || !Number.isFinite(at)) return []
      const from = Math.min(frames, Math.max(1, Math.round(at - ip) + 1))
      const to = Math.min(
        frames,
        Math.max(from, Number.isFinite(lasts) && lasts > 0 ? from + Math.round(lasts) - 1 : frames)
      )
      return [{ name, from, to }]
    }),
    leftOut: leftOutOf(read.data, file)
  }
}
