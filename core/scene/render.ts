/** Rendering a scene: each element as a layer of its own, laid over those behind it, in premultiplied floating point. */
import type { Frame } from '../frame/frame'
import { straightCodes } from '../frame/straight-codes'
import type { Host } from '../host'
import { beneath, clearLayer, over, paint, reachOf, sharesOf, type Along, type Layer } from './layer'
import { layLettering, type Laid, type Letter } from './lettering'
import { arrowLine, figureLine, inverse, pathLine, placed, placing, traced, type Affine, type Line } from './outline'
import { bitmapOf, layBitmap, type Bitmap } from './picture'
import { apartBy, PARTS } from './parts'
import { applyWipes, wipesOf } from './wipe'
import { areaOf, grown, isEmpty, joined, strokeOf, within, type Bounds, type Coverage } from './raster'
import { lastsOf, type Element, type Move, type Paint, type Scene } from './scene'
import { drawn, momentOf, timesOf, type Moment, type Times } from './timing'

/** What a look comes to, once laid out: in the element's own coordinates. */
interface Shaped {
  letters: Letter[]
  /** Outline of a shape, or the line of a path. */
  line: Line | null
  closed: boolean
  box: readonly [left: number, top: number, right: number, bottom: number]
  missing: string[]
  bitmap?: Bitmap
}

async function shapedOf({ look, name }: Element, host: Host): Promise<Shaped> {
  if (look.kind === 'picture') {
    const [w, h] = [look.width / 2, look.height / 2]
    const bitmap = await bitmapOf(look.data, name, host)
    return { letters: [], line: null, closed: true, box: [-w, -h, w, h], missing: [], bitmap }
  }
  if (look.kind === 'text') {
    const { letters, missing, box }: Laid = await layLettering(look, host)
    return { letters, line: null, closed: true, box, missing }
  }
  const line = look.kind === 'shape' ? figureLine(look) : pathLine(look.points, look.closed)
  const half = (look.stroke?.width ?? 0) / 2
  const box = [Infinity, Infinity, -Infinity, -Infinity] as [number, number, number, number]
  for (let i = 0; i < line.length; i += 2) {
    box[0] = Math.min(box[0], line[i]! - half)
    box[1] = Math.min(box[1], line[i + 1]! - half)
    box[2] = Math.max(box[2], line[i]! + half)
    box[3] = Math.max(box[3], line[i + 1]! + half)
  }
  return { letters: [], line, closed: look.kind === 'shape' || look.closed, box, missing: [] }
}

/** Adds a layer under the coverage it takes. */
class Painter {
  private readonly parts: { coverage: Coverage; paint: Paint; opacity: number }[] = []
  private bounds: Bounds = { left: 0, top: 0, right: 0, bottom: 0 }

  add(coverage: Coverage | null, colour: Paint, opacity = 1): void {
    if (!coverage || opacity <= 0) return
    this.parts.push({ coverage, paint: colour, opacity })
    this.bounds = joined(this.bounds, coverage)
  }

  done(along: (paint: Paint) => Along): Layer | null {
    if (isEmpty(this.bounds)) return null
    const layer = clearLayer(this.bounds)
    for (const { coverage, paint: colour, opacity } of this.parts)
      paint(layer, coverage, { paint: colour, opacity, along: along(colour) })
    return layer
  }
}

/** Softness and throw of a shadow once scaled, in pixels: what reaches further is no shadow any more, and takes memory. */
const MOST_SOFT = 400
const MOST_CAST = 1000

/** Codes of 16 bits that the same picture may differ by when it is drawn from other numbers. */
const CLOSE = 16

/** Renders the frames of one scene; what is the same from frame to frame is kept. */
export class SceneRenderer {
  private readonly times: Map<string, Times>
  private readonly elements: Element[]
  private readonly shaped = new Map<string, Shaped>()
  private readonly kept = new Map<string, { key: string; layer: Layer | null }>()

  private constructor(
    private readonly scene: Scene,
    private readonly host: Host
  ) {
    this.times = timesOf(scene)
    this.elements = drawn(scene)
  }

  /** Lays the scene out. Rejects as unreachable where type faces cannot be had. */
  static async of(scene: Scene, host: Host): Promise<SceneRenderer> {
    const renderer = new SceneRenderer(scene, host)
    for (const element of renderer.elements) renderer.shaped.set(element.id, await shapedOf(element, host))
    return renderer
  }

  /** Letters that no type face has. */
  get missing(): string[] {
    return [...new Set([...this.shaped.values()].flatMap(({ missing }) => missing))]
  }

  private elementAt(element: Element, at: number): { layer: Layer; opacity: number } | null {
    const moment = momentOf(element, this.times.get(element.id)!, at)
    if (!moment) return null
    const { values, come, gone } = moment
    let opacity = values.opacity
    const fades = (move: Move): boolean => move.kind === 'fade' || (move.kind in PARTS && element.look.kind !== 'text')
    if (fades(element.entrance)) opacity *= Math.min(1, Math.max(0, come))
    if (fades(element.exit)) opacity *= Math.min(1, Math.max(0, 1 - gone))
    if (opacity <= 0) return null
    // what only fades is drawn once
    const shape = JSON.stringify([
      element.entrance.kind === 'fade' ? 1 : come,
      element.exit.kind === 'fade' ? 0 : gone,
      { ...values, opacity: 0 }
    ])
    const kept = this.kept.get(element.id)
    const layer = kept?.key === shape ? kept.layer : this.layerOf(element, moment)
    this.kept.set(element.id, { key: shape, layer })
    return layer && { layer, opacity }
  }

  private placeOf(element: Element, { values, come, gone }: Moment, box: Shaped['box']): Affine {
    const { width, height } = this.scene
    let { x, y, scale } = values
    if (element.entrance.kind === 'grow') scale *= Math.max(0, come)
    if (element.exit.kind === 'grow') scale *= Math.max(0, 1 - gone)
    // a turned element reaches as far to each side as its farthest corner does
    const far = Math.hypot(Math.max(-box[0], box[2]), Math.max(-box[1], box[3])) * values.scale
    const upright = values.rotation % 360 === 0
    const sides = upright ? box.map(side => side * values.scale) : [-far, -far, far, far]
    const { shadow, glow } = element
    const cast =
      Math.max(
        shadow ? reachOf(shadow.soft) + Math.max(Math.abs(shadow.x), Math.abs(shadow.y)) : 0,
        glow ? reachOf(glow.soft) : 0
      ) * values.scale
    const [left, top, right, bottom] = sides.map((side, n) => side + (n < 2 ? -cast : cast))
    const slid = (move: Move, share: number): void => {
      if (move.kind !== 'slide' || share === 0) return
      if (move.side === 'left') x -= (values.x + right!) * share
      if (move.side === 'right') x += (width - values.x - left!) * share
      if (move.side === 'top') y -= (values.y + bottom!) * share
      if (move.side === 'bottom') y += (height - values.y - top!) * share
    }
    slid(element.entrance, 1 - come)
    slid(element.exit, gone)
    return placing(x, y, scale, values.rotation)
  }

  private layerOf(element: Element, moment: Moment): Layer | null {
    const { look, shadow, glow } = element
    const shaped = this.shaped.get(element.id)!
    const at = this.placeOf(element, moment, shaped.box)
    const scale = Math.hypot(at.a, at.b)
    if (scale === 0) return null
    const picture = { left: 0, top: 0, right: this.scene.width, bottom: this.scene.height }
    // what lies outside the picture may still cast its shadow into it
    const soft = (given: number): number => Math.min(MOST_SOFT, given * scale)
    const cast = (given: number): number => Math.min(MOST_CAST, Math.max(-MOST_CAST, given * scale))
    const reach = Math.max(
      shadow ? reachOf(soft(shadow.soft)) + Math.ceil(Math.max(Math.abs(cast(shadow.x)), Math.abs(cast(shadow.y)))) : 0,
      glow ? reachOf(soft(glow.soft)) : 0
    )
    const clip = grown(picture, reach)
    const painter = new Painter()
    if (look.kind === 'text') this.letters(painter, element, moment, at, clip)
    else if (look.kind !== 'picture') this.figure(painter, element, moment, at, clip)
    const layer =
      look.kind === 'picture'
        ? layBitmap(shaped.bitmap!, look, at, clip)
        : painter.done(colour => alongOf(colour, shaped.box, at))
    if (!layer) return null
    applyWipes(layer, wipesOf(element, moment), shaped.box, at)
    let whole = layer
    if (glow) whole = beneath(whole, { x: 0, y: 0, ...glow, soft: soft(glow.soft) }, clip, this.host.kernels)
    if (shadow) {
      const scaled = { ...shadow, x: cast(shadow.x), y: cast(shadow.y), soft: soft(shadow.soft) }
      whole = beneath(whole, scaled, clip, this.host.kernels)
    }
    return isEmpty(within(whole, picture)) ? null : whole
  }

  private letters(painter: Painter, element: Element, { come, gone }: Moment, at: Affine, clip: Bounds): void {
    const { look, entrance, exit } = element
    if (look.kind !== 'text') return
    const { letters } = this.shaped.get(element.id)!
    const moving = (entrance.kind in PARTS && come < 1) || (exit.kind in PARTS && gone > 0)
    if (!moving) {
      const lines = letters.flatMap(({ outlines }) => outlines.map(line => placed(line, at)))
      painter.add(areaOf(lines, clip), look.colour)
      return
    }
    const counts = {
      letter: letters.length,
      word: (letters.at(-1)?.word ?? 0) + 1,
      line: (letters.at(-1)?.line ?? 0) + 1
    }
    for (const letter of letters) {
      const coming = apartBy(entrance, come, letter, counts, look.size)
      const going = apartBy(exit, 1 - gone, letter, counts, look.size)
      const own = placing(coming.x + going.x, coming.y + going.y, 1, coming.turned + going.turned)
      const about = (line: Line): Line => {
        if (!coming.turned && !going.turned) return placed(placed(line, own), at)
        const centred = placed(line, { a: 1, b: 0, c: 0, d: 1, e: -letter.x, f: -letter.y })
        return placed(placed(placed(centred, own), { a: 1, b: 0, c: 0, d: 1, e: letter.x, f: letter.y }), at)
      }
      painter.add(areaOf(letter.outlines.map(about), clip), look.colour, coming.opacity * going.opacity)
    }
  }

  private figure(painter: Painter, element: Element, { come, gone, values }: Moment, at: Affine, clip: Bounds): void {
    const { look, entrance, exit } = element
    if (look.kind === 'text' || look.kind === 'picture') return
    const { line, closed } = this.shaped.get(element.id)!
    if (!line) return
    const share =
      values.trace *
      (entrance.kind === 'trace' ? Math.min(1, Math.max(0, come)) : 1) *
      (exit.kind === 'trace' ? Math.min(1, Math.max(0, 1 - gone)) : 1)
    const scale = Math.hypot(at.a, at.b)
    const whole = placed(line, at)
    if (look.fill) {
      const opacity = look.kind === 'shape' ? look.fillOpacity : 1
      // an area that is traced fills as its outline closes
      painter.add(areaOf([whole], clip), look.fill, opacity * (look.stroke ? share ** 4 : share))
    }
    if (!look.stroke || share <= 0) return
    const ring = closed ? Float64Array.from([...whole, whole[0]!, whole[1]!]) : whole
    const { line: drawnLine, head } = traced(ring, share)
    painter.add(
      strokeOf(
        [{ line: share < 1 ? drawnLine : whole, closed: closed && share >= 1 }],
        look.stroke.width * scale,
        clip
      ),
      look.stroke.colour
    )
    if (look.kind !== 'path' || look.rider === 'none') return
    const size = look.riderSize * scale
    const rider =
      look.rider === 'arrow'
        ? arrowLine(size)
        : figureLine({
            kind: 'shape',
            form: 'ellipse',
            width: size,
            height: size,
            corner: 0,
            points: 3,
            inner: 1,
            fill: null,
            fillOpacity: 1,
            stroke: null
          })
    painter.add(areaOf([placed(rider, placing(head.x, head.y, 1, head.turned))], clip), look.stroke.colour)
  }

  /** Where elements lie at a frame, in pixels of the picture; by id, and only those that are there. */
  boxes(index: number): Record<string, [number, number, number, number]> {
    const [n, d] = this.scene.rate
    const found: Record<string, [number, number, number, number]> = {}
    for (const element of this.elements) {
      const moment = momentOf(element, this.times.get(element.id)!, (index * d) / n)
      if (!moment) continue
      const { box } = this.shaped.get(element.id)!
      const at = this.placeOf(element, moment, box)
      const [l, t, r, b] = box
      const corners = placed(Float64Array.from([l, t, r, t, r, b, l, b]), at)
      const xs = [0, 2, 4, 6].map(i => corners[i]!)
      const ys = [1, 3, 5, 7].map(i => corners[i]!)
      found[element.id] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
    }
    return found
  }

  /** Whether the frame after the last would be the first, to within rounding: by their pictures, whatever makes them. */
  closes(): boolean {
    const [first, after] = [this.frame(0).samples, this.frame(this.scene.frames).samples]
    return first.every((code, i) => Math.abs(code - after[i]!) <= CLOSE)
  }

  /** Everything at one time, over the backdrop. */
  private momentAt(at: number): Layer {
    const { width, height, backdrop } = this.scene
    const picture = { left: 0, top: 0, right: width, bottom: height }
    const parts = this.elements.flatMap(element => this.elementAt(element, at) ?? [])
    const bounds = backdrop
      ? picture
      : within(
          parts.reduce<Bounds>((sum, { layer }) => joined(sum, layer), { left: 0, top: 0, right: 0, bottom: 0 }),
          picture
        )
    const canvas = clearLayer(isEmpty(bounds) ? { left: 0, top: 0, right: 0, bottom: 0 } : bounds)
    if (backdrop) {
      const [r, g, b] = sharesOf(backdrop)
      for (let i = 0; i < canvas.pixels.length; i += 4) {
        canvas.pixels[i] = r
        canvas.pixels[i + 1] = g
        canvas.pixels[i + 2] = b
        canvas.pixels[i + 3] = 1
      }
    }
    for (const { layer, opacity } of parts) over(canvas, layer, opacity)
    return canvas
  }

  /** Frame `index`, from 0: straight, 16 bits. What would round to no alpha holds no colour either. */
  frame(index: number): Frame {
    const { width, height, rate, blur } = this.scene
    const [n, d] = rate
    const each = d / n
    const begin = index * each
    if (blur.moments === 1 || blur.open === 0) return straightCodes(this.momentAt(begin), width, height)
    const layers = Array.from({ length: blur.moments }, (_, k) =>
      this.momentAt(Math.min(lastsOf(this.scene) - 1e-9, begin + ((k + 0.5) / blur.moments) * blur.open * each))
    )
    const sum = clearLayer(layers.reduce<Bounds>(joined, { left: 0, top: 0, right: 0, bottom: 0 }))
    const row = sum.right - sum.left
    for (const layer of layers) {
      const own = layer.right - layer.left
      for (let y = layer.top; y < layer.bottom; y++) {
        let from = 4 * (y - layer.top) * own
        let to = 4 * ((y - sum.top) * row + layer.left - sum.left)
        for (let i = 0; i < 4 * own; i++) sum.pixels[to++]! += layer.pixels[from++]! / layers.length
      }
    }
    return straightCodes(sum, width, height)
  }
}

/** Along a gradient's direction, across the element's box. */
function alongOf(colour: Paint, [left, top, right, bottom]: Shaped['box'], at: Affine): Along {
  if (typeof colour === 'string') return () => 0
  const back = inverse(at)
  const turn = (colour.angle * Math.PI) / 180
  const [ux, uy] = [Math.cos(turn), Math.sin(turn)]
  const reach = (Math.abs(ux) * (right - left) + Math.abs(uy) * (bottom - top)) / 2 || 1
  const [cx, cy] = [(left + right) / 2, (top + bottom) / 2]
  return (x, y) => {
    const [u, v] = [back.a * x + back.c * y + back.e - cx, back.b * x + back.d * y + back.f - cy]
    return 0.5 + (u * ux + v * uy) / (2 * reach)
  }
}
