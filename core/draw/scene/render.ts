/**
 * Rendering a scene: each element as a layer of its own, laid over those behind it, in premultiplied floating point.
 */
import type { Frame } from '../../frame/frame'
import { premultipliedCodes, straightCodes } from '../../frame/straight-codes'
import type { Host } from '../../frame/host'
import { ClipPictures, type ClipSources } from './clips'
import { cameraOf, idleCameras, lookingThrough, seenThrough } from './camera'
import { kindOf } from './elements/kinds'
import type { Copy, LaidFinding } from './elements/kind'
import { boxAt, NOTHING, united } from './extent'
import type { Stand } from './hands'
import type { Extent } from './ink'
import { blended, unheldOf } from './blend'
import { added, beneath, clearLayer, put, reachOf, sharesOf, type Layer } from './layer'
import { cutBy, mattesOf, type Mattes } from './mattes'
import { SceneLayout } from './layout'
import { drawn } from './order'
import { placeOf } from './place'
import { combined, inverse, placing, scaleOf, type Affine } from '../raster/line'
import { grown, isEmpty, joined, within, type Bounds } from '../raster/coverage'
import { addsLight, type Element, type Scene } from './scene'
import { neverSeen } from './seen'
import { lastsOf, momentOf, timesOf, type Moment, type Times } from './timing'
import { EVERY_MOVE, type Blend, type Move } from './values'
import { applyWipes, wipesOf } from './wipe'

/**
 * What an element lies in, the picture or a group: where that is, what is drawn of it, and its box, out of which slides
 * run.
 */
interface Around {
  at: Affine
  room: Bounds
  box: Extent
  /** Tells what is drawn several times apart, where it is kept. */
  of?: string
}

/** Where an element lies, and what it lies in as it is seen, both into the picture. */
interface Placed {
  at: Affine
  within: Affine
}

/** An element as it is laid on what lies behind it. */
interface Part {
  id: string
  layer: Layer
  opacity: number
  blend: Blend
}

/** Whether two parts are the same pixels laid on in the same way. */
const samePart = (one: Part, other: Part | undefined): boolean =>
  one.layer === other?.layer && one.opacity === other.opacity && one.blend === other.blend

/**
 * Softness and throw of a shadow once scaled, in pixels: what reaches further is no shadow any more, and takes memory.
 */
const MOST_SOFT = 400
const MOST_CAST = 1000

const NOWHERE: Bounds = { left: 0, top: 0, right: 0, bottom: 0 }
/** What layers take up together. */
const boundsOf = (parts: readonly { layer: Layer }[]): Bounds =>
  parts.reduce<Bounds>((sum, { layer }) => joined(sum, layer), NOWHERE)

/** Rows of the pictures that blending is measured in. */
const MEASURED = 180

/** What lies in an element, once and as it is. */
const ONLY: Copy = { n: 0, by: placing(0, 0, 1, 0), later: 0 }

/** Codes of 16 bits that the same picture may differ by when it is drawn from other numbers. */
const CLOSE = 16

/** Renders the frames of one scene; what is the same from frame to frame is kept. */
export class SceneRenderer {
  private readonly times: Map<string, Times>
  private readonly kept = new Map<string, { key: string; layer: Layer | null }>()
  private keptSamples = 0
  private readonly mattes: Mattes
  private readonly cutting: ReadonlySet<Element>
  /** What was laid together last, which is the same again while nothing changes. */
  private laid: { parts: readonly Part[]; share: number; canvas: Layer } | null = null
  /** While it is measured, what blending comes to over what is not solid, by element. */
  private weighed: Map<string, { all: number; unheld: number }> | null = null

  private readonly clips: ClipPictures
  private readonly camera: Element | null

  private constructor(
    private readonly scene: Scene,
    private readonly host: Host,
    shown: ClipSources,
    /** Those that are drawn, the backmost first. */
    private readonly elements: readonly Element[],
    private readonly layout: SceneLayout
  ) {
    this.times = timesOf(scene)
    this.clips = new ClipPictures(scene, shown, host.kernels)
    this.mattes = mattesOf(elements)
    this.camera = cameraOf(scene)
    this.cutting = new Set(this.mattes.by.values())
  }

  /** Width and height of the picture drawn at a share of its size. */
  private sizeAt(share: number): [number, number] {
    return [Math.ceil(this.scene.width * share), Math.ceil(this.scene.height * share)]
  }

  /** The picture, drawn at a share of its size, as what elements lie in. */
  private whole(share: number): Around {
    const [right, bottom] = this.sizeAt(share)
    return {
      at: placing(0, 0, share, 0),
      room: { left: 0, top: 0, right, bottom },
      box: [0, 0, this.scene.width, this.scene.height]
    }
  }

  /**
   * Lays the scene out. Rejects as unreachable where type faces cannot be had. Sources that it shows are read, and
   * neither kept nor closed.
   */
  static async of(scene: Scene, host: Host, shown: ClipSources = new Map()): Promise<SceneRenderer> {
    const elements = drawn(scene)
    return new SceneRenderer(scene, host, shown, elements, await SceneLayout.of(scene, elements, host))
  }

  /** Letters that no type face has. */
  get missing(): string[] {
    return this.layout.missing
  }

  /** What is otherwise than its elements ask for. */
  get told(): LaidFinding[] {
    return [...this.layout.told, ...this.mattes.told, ...idleCameras(this.scene)]
  }

  /** What an element comes to at a time; null where nothing of it is to be seen. */
  private elementAt(element: Element, at: number, around: Around): Part | null {
    const { id, blend = 'normal' } = element
    const moment = momentOf(element, this.times.get(id)!, at)
    if (!moment) return null
    const { values, come, gone } = moment
    let opacity = values.opacity
    const { moves, holds, runs } = kindOf(element.look)
    // what comes part by part and has none fades
    const fades = ({ kind }: Move): boolean =>
      kind === 'fade' || (kind !== 'trace' && !EVERY_MOVE.includes(kind) && !moves.includes(kind))
    if (fades(element.entrance)) opacity *= Math.min(1, Math.max(0, come))
    if (fades(element.exit)) opacity *= Math.min(1, Math.max(0, 1 - gone))
    if (opacity <= 0) return null
    if (holds || runs?.(element.look) || this.mattes.by.has(id)) {
      const layer = this.layerOf(element, moment, around, at)
      return layer && { id, layer, opacity, blend }
    }
    // what only fades is drawn once
    const shape = JSON.stringify([
      element.entrance.kind === 'fade' ? 1 : come,
      element.exit.kind === 'fade' ? 0 : gone,
      { ...values, opacity: 0, seconds: 0 },
      this.seen(element, values.depth, around, at)?.at,
      around.room,
      this.pictureOf(element, at),
      moment.tint
    ])
    const keep = JSON.stringify([id, around.of ?? ''])
    const kept = this.kept.get(keep)
    const layer = kept?.key === shape ? kept.layer : this.layerOf(element, moment, around, at)
    this.keep(keep, { key: shape, layer }, around.of ? this.roomForCopies : Infinity)
    return layer && { id, layer, opacity, blend }
  }

  /** Keeps what was drawn under a name, if that leaves no more samples kept than there is room for. */
  private keep(name: string, drawing: { key: string; layer: Layer | null }, room: number): void {
    const before = this.kept.get(name)?.layer?.pixels.length ?? 0
    const own = drawing.layer?.pixels.length ?? 0
    this.kept.delete(name)
    this.keptSamples -= before
    if (this.keptSamples + own > room) return
    this.kept.set(name, drawing)
    this.keptSamples += own
  }

  /** Samples that may be kept in all once copies are among them: eight whole pictures of them. */
  private get roomForCopies(): number {
    return 8 * 4 * this.scene.width * this.scene.height
  }

  /** Parts laid on a canvas, the first behind; `empty` where nothing lies on it yet. */
  private lay(canvas: Layer, parts: readonly Part[], empty: boolean): Layer {
    for (const [n, { id, layer, opacity, blend }] of parts.entries()) {
      if (this.weighed && blend !== 'normal') {
        const sum = this.weighed.get(id) ?? { all: 0, unheld: 0 }
        const here = unheldOf(canvas, layer, opacity)
        this.weighed.set(id, { all: sum.all + here.all, unheld: sum.unheld + here.unheld })
      }
      if (empty && n === 0 && opacity === 1 && blend === 'normal') put(canvas, layer)
      else blended(canvas, layer, blend, opacity)
    }
    return canvas
  }

  /** Which picture of its source an element shows at a time; null for what shows none. */
  private pictureOf(element: Element, at: number): number | null {
    const { look } = element
    return look.kind === 'clip' ? this.clips.indexAt(element, look, at - this.times.get(element.id)!.start, at) : null
  }

  /** Where an element lies at a time, out of what it lies in as it is seen then; null where the camera is past it. */
  private placeOf(element: Element, moment: Moment, around: Around, time: number): Placed | null {
    const values = this.layout.riding(element, moment.values)
    const within = this.seen(element, values.depth, around, time)
    if (!within) return null
    return { at: placeOf(element, this.layout.laid(element).box, { ...moment, values }, within), within: within.at }
  }

  /** What an element lies in, looked at through the camera if there is one. */
  private seen({ inside }: Element, depth: number, around: Around, time: number): Pick<Around, 'at' | 'box'> | null {
    const looking = inside === undefined ? lookingThrough(this.camera, this.times, time) : null
    if (!looking) return around
    const values = this.layout.riding(this.camera!, looking.values)
    const lens = seenThrough(values, depth, this.scene)
    if (!lens || scaleOf(lens) === 0) return null
    return { at: combined(around.at, lens), box: boxAt(around.box, inverse(lens)) }
  }

  private layerOf(element: Element, moment: Moment, around: Around, time: number): Layer | null {
    const { shadow, glow } = element
    const { box } = this.layout.laid(element)
    const at = this.placeOf(element, moment, around, time)?.at
    const scale = at ? scaleOf(at) : 0
    if (!at || scale === 0) return null
    // what lies outside the picture may still cast its shadow into it
    const soft = (given: number): number => Math.min(MOST_SOFT, given * scale)
    const cast = (given: number): number => Math.min(MOST_CAST, Math.max(-MOST_CAST, given * scale))
    const reach = Math.max(
      shadow ? reachOf(soft(shadow.soft)) + Math.ceil(Math.max(Math.abs(cast(shadow.x)), Math.abs(cast(shadow.y)))) : 0,
      glow ? reachOf(soft(glow.soft)) : 0
    )
    const clip = grown(around.room, reach)
    const layer = this.drawing(element, moment, { at, clip, time, of: around.of })
    if (!layer) return null
    const traces = kindOf(element.look).moves.includes('trace')
    applyWipes(layer, wipesOf(element, traces, moment), box, at)
    const cuts = this.mattes.by.get(element.id)
    if (cuts) {
      const { takes, soft: edge } = element.matte!
      const own = grown(clip, reachOf(soft(edge)))
      const part = this.elementAt(cuts, time, { ...around, room: own, of: `${around.of ?? ''} on ${element.id}` })
      const { layer: matte = null, opacity = 1 } = part ?? {}
      if (!cutBy(layer, { layer: matte, opacity, takes, soft: soft(edge) }, this.host.kernels)) return null
    }
    let whole = layer
    if (glow) whole = beneath(whole, { x: 0, y: 0, ...glow, soft: soft(glow.soft) }, clip, this.host.kernels)
    if (shadow) {
      const scaled = { ...shadow, x: cast(shadow.x), y: cast(shadow.y), soft: soft(shadow.soft) }
      whole = beneath(whole, scaled, clip, this.host.kernels)
    }
    return isEmpty(within(whole, around.room)) ? null : whole
  }

  /** What an element is, before anything lies under it. */
  private drawing(
    element: Element,
    moment: Moment,
    { at, clip, time, of = '' }: { at: Affine; clip: Bounds; time: number; of?: string | undefined }
  ): Layer | null {
    const laid = this.layout.laid(element)
    const { box } = laid
    return laid.draw({
      element,
      moment,
      at,
      clip,
      box,
      since: time - this.times.get(element.id)!.start,
      picture: () => this.clips.get(element, this.pictureOf(element, time)!),
      members: (copy = ONLY) => {
        const { n, by, later } = copy
        const own = { at: combined(at, by), room: clip, box, of: n === 0 ? of : `${of} copy ${n}` }
        return this.membersAt(element, time - later, own, copy !== ONLY)
      }
    })
  }

  /** What of elements is to be seen for itself at a time; what cuts others is not. */
  private partsAt(elements: readonly Element[], time: number, around: Around): Part[] {
    return elements.flatMap(part => (this.cutting.has(part) ? [] : (this.elementAt(part, time, around) ?? [])))
  }

  /** What lies in an element at a time, laid together; null where nothing of it is to be seen. */
  private membersAt(element: Element, time: number, around: Around, asIs = false): Layer | null {
    const parts = this.partsAt(this.layout.within(element), time, around)
    // a copy is only looked at, so that what lies in it alone need not be laid anew
    const [only] = parts
    if (asIs && only && parts.length === 1 && only.opacity === 1 && only.blend === 'normal') return only.layer
    const bounds = within(boundsOf(parts), around.room)
    return isEmpty(bounds) ? null : this.lay(clearLayer(bounds), parts, true)
  }

  /** Where elements stand at a frame, in pixels of the picture; by id, and only those that are there. */
  stands(index: number): Record<string, Stand> {
    const [n, d] = this.scene.rate
    const found: Record<string, Stand> = {}
    const time = (index * d) / n
    const find = (element: Element, around: Around): Extent | null => {
      const moment = momentOf(element, this.times.get(element.id)!, time)
      if (!moment) return null
      const { box: own } = this.layout.laid(element)
      const placed = kindOf(element.look).unseen ? null : this.placeOf(element, moment, around, time)
      if (!placed) return null
      const { at, within } = placed
      const parts = this.layout.within(element).map(part => find(part, { ...around, at, box: own }) ?? NOTHING)
      const all = parts.reduce<Extent>(united, NOTHING)
      const asOne = all[0] > all[2] || kindOf(element.look).copies?.(element.look) !== undefined
      const box = asOne ? boxAt(own, at) : all
      found[element.id] = { own, at, box, within }
      return box
    }
    for (const element of this.elements) if (element.inside === undefined) find(element, this.whole(1))
    return found
  }

  /** Left, top, right and bottom of elements at a frame, in pixels of the picture; as `stands`. */
  boxes(index: number): Record<string, [number, number, number, number]> {
    return Object.fromEntries(Object.entries(this.stands(index)).map(([id, { box }]) => [id, [...box]]))
  }

  /** Lettering of which some is never within the picture: its name, and the share of it that is not. */
  cut(most?: number): { name: string; share: number }[] {
    return neverSeen(this.scene, this.elements, index => this.boxes(index), most)
  }

  /**
   * Elements laid on by a mode of which some lies over what is not solid, at some of `most` frames spread over the
   * clip: name, mode, and the share of what they cover, 0 to 1. What is laid beneath the delivery there does not take
   * part. The share is null where it cannot be known: sources that the scene shows are not at hand, or cannot be read.
   */
  async unheld(most = 8): Promise<{ name: string; blend: Blend; share: number | null }[]> {
    const laidOn = this.elements.filter(({ blend = 'normal' }) => blend !== 'normal')
    if (!laidOn.length) return []
    const weighed = new Map<string, { all: number; unheld: number }>()
    let known = true
    const { frames, height } = this.scene
    const steps = Math.min(most, frames)
    for (let n = 0; n < steps; n++) {
      const index = steps === 1 ? 0 : Math.round((n * (frames - 1)) / (steps - 1))
      // what cannot be read is told as the share's being unknown, and by whoever renders that frame
      if (
        !(await this.fetch(index).then(
          () => true,
          () => false
        ))
      ) {
        known = false
        continue
      }
      this.weighed = weighed
      this.momentAt(this.timesOfFrame(index)[0]!, Math.min(1, MEASURED / height))
      this.weighed = null
    }
    this.kept.clear()
    this.keptSamples = 0
    return laidOn.flatMap(({ id, name, blend }): { name: string; blend: Blend; share: number | null }[] => {
      const { all, unheld } = weighed.get(id) ?? { all: 0, unheld: 0 }
      if (known && unheld === 0) return []
      return [{ name: name || id, blend: blend!, share: known ? unheld / all : null }]
    })
  }

  /**
   * Whether the frame after the last would be the first, to within rounding: by their pictures, whatever makes them.
   */
  async closes(): Promise<boolean> {
    const { samples: first } = await this.rendered(0)
    const { samples: after } = await this.rendered(this.scene.frames)
    return first.every((code, i) => Math.abs(code - after[i]!) <= CLOSE)
  }

  /** Everything at one time, over the backdrop. */
  private momentAt(at: number, share: number): Layer {
    const { backdrop } = this.scene
    const whole = this.whole(share)
    const picture = whole.room
    const outermost = this.elements.filter(({ inside }) => inside === undefined)
    const parts = this.partsAt(outermost, at, whole)
    const known = this.laid
    const same = (part: Part, n: number): boolean => samePart(part, known!.parts[n])
    if (!this.weighed && known?.share === share && known.parts.length === parts.length && parts.every(same))
      return known.canvas
    const bounds = backdrop ? picture : within(boundsOf(parts), picture)
    const canvas = clearLayer(isEmpty(bounds) ? NOWHERE : bounds)
    if (backdrop) {
      const [r, g, b] = sharesOf(backdrop)
      for (let i = 0; i < canvas.pixels.length; i += 4) {
        canvas.pixels[i] = r
        canvas.pixels[i + 1] = g
        canvas.pixels[i + 2] = b
        canvas.pixels[i + 3] = 1
      }
    }
    this.lay(canvas, parts, !backdrop)
    this.laid = { parts, share, canvas }
    return canvas
  }

  /** The times that a frame is laid together from. */
  private timesOfFrame(index: number): number[] {
    const { rate, blur } = this.scene
    const each = rate[1] / rate[0]
    const begin = index * each
    if (blur.moments === 1 || blur.open === 0) return [begin]
    const first = begin - (blur.centred ? (blur.open * each) / 2 : 0)
    return Array.from({ length: blur.moments }, (_, k) =>
      // before its first and after its last moment the scene stands still
      Math.max(0, Math.min(lastsOf(this.scene) - 1e-9, first + ((k + 0.5) / blur.moments) * blur.open * each))
    )
  }

  /** Frame `index` of any scene. Rejects where a source that it shows is not at hand or cannot be read. */
  async rendered(index: number, share = 1): Promise<Frame> {
    await this.fetch(index)
    return this.frame(index, share)
  }

  /** Has at hand what frame `index` shows of other sources. */
  private async fetch(index: number): Promise<void> {
    const times = this.timesOfFrame(index)
    for (const element of this.elements) {
      if (element.look.kind !== 'clip') continue
      const own = this.layout.latersOf(element).flatMap(later => times.map(at => at - later))
      const there = own.filter(at => momentOf(element, this.times.get(element.id)!, at))
      const wanted = there.map(at => this.pictureOf(element, at)!)
      if (wanted.length) await this.clips.fetch(element, element.look, wanted)
    }
  }

  /**
   * Frame `index`, from 0, of a scene that shows no other sources: 16 bits, straight, or premultiplied where the scene
   * adds light. What would round to no alpha holds no colour either, but for such light. At a `share` of its size, for
   * a preview, it is the same picture drawn with fewer pixels, and its last ones may lie half outside.
   */
  frame(index: number, share = 1): Frame {
    const codes = addsLight(this.scene) ? premultipliedCodes : straightCodes
    const [width, height] = this.sizeAt(share)
    const times = this.timesOfFrame(index)
    let [sum, last, alike] = [null as Layer | null, null as Layer | null, 0]
    for (const at of times) {
      const layer = this.momentAt(at, share)
      // moments that are all the same are added up as one
      if (last && layer !== last) {
        sum = added(sum, last, alike / times.length)
        alike = 0
      }
      last = layer
      alike++
    }
    return codes(sum ? added(sum, last!, alike / times.length) : last!, width, height)
  }
}
