/** A scene laid out: what each element is in its own coordinates, before any time is asked for. */
import type { Host } from '../../frame/host'
import { combined, inverse, placed, placing, traced, type Affine, type Line } from '../raster/line'
import { idleValues } from './acting'
import { MOST_COPIES } from './elements/group'
import type { LaidFinding, LaidOut } from './elements/kind'
import { kindOf } from './elements/kinds'
import { boxAt, NOTHING, united } from './extent'
import type { Extent } from './ink'
import type { Element, Scene } from './scene'
import { atRest } from './standing'
import type { Moment } from './timing'

/** Elements of a scene laid out, what lies in each, and the lines that some move along. */
export class SceneLayout {
  /** Those in a group, by its id, the backmost first. */
  private readonly members = new Map<string, Element[]>()
  private readonly shaped = new Map<string, LaidOut>()
  /** Lines that elements move along, by their ids. */
  private readonly ridden = new Map<string, Line>()
  private readonly toldRides: LaidFinding[] = []

  private constructor(
    private readonly scene: Scene,
    private readonly elements: readonly Element[],
    private readonly host: Host
  ) {
    for (const element of elements)
      if (element.inside !== undefined)
        this.members.set(element.inside, [...(this.members.get(element.inside) ?? []), element])
  }

  /** Lays out `elements` of the scene, the backmost first. Rejects as unreachable where type faces cannot be had. */
  static async of(scene: Scene, elements: readonly Element[], host: Host): Promise<SceneLayout> {
    const layout = new SceneLayout(scene, elements, host)
    for (const element of elements) await layout.layOut(element)
    return layout
  }

  /** An element laid out. */
  laid({ id }: Element): LaidOut {
    return this.shaped.get(id)!
  }

  /** What lies in an element, the backmost first. */
  within({ id }: Element): readonly Element[] {
    return this.members.get(id) ?? []
  }

  /** Lays an element out, once: what holds others after what it holds, whose boxes where they rest are its own. */
  private async layOut(element: Element): Promise<LaidOut> {
    const { id, name, look } = element
    const known = this.shaped.get(id)
    if (known) return known
    let members = NOTHING
    for (const part of this.members.get(id) ?? []) {
      const { box } = await this.layOut(part)
      members = united(members, boxAt(box, atRest(part)))
    }
    if (members[0] > members[2]) members = [0, 0, 0, 0]
    const { host, scene } = this
    const path = (line: string): Line | null => this.pathBeside(element, line, inverse(atRest(element)))
    this.ride(element)
    const lettering = (id: string): Promise<Extent | null> => this.letteringBeside(element, id)
    const laid = await kindOf(look).lay(look, {
      name: name || id,
      host,
      faces: scene.faces ?? [],
      members,
      lettering,
      path,
      outer: this.copiesOf(element)
    })
    this.shaped.set(id, laid)
    return laid
  }

  /** Where a lettering that lies where the element does rests, from its place and at its scale. */
  private async letteringBeside({ inside, x, y, scale, wide = 1 }: Element, id: string): Promise<Extent | null> {
    const found = this.scene.elements.find(each => each.id === id && each.inside === inside && kindOf(each.look).words)
    if (!found || scale === 0 || wide === 0) return null
    const { box } = await this.layOut(found)
    const own = { a: scale * wide, b: 0, c: 0, d: scale, e: x, f: y }
    return boxAt(box, combined(inverse(own), atRest(found)))
  }

  /** The line of a path that lies where the element does, hidden or not, as it rests, by a transform. */
  private pathBeside({ inside }: Element, id: string, by: Affine): Line | null {
    const found = this.scene.elements.find(each => each.id === id && each.inside === inside)
    const line = found && kindOf(found.look).line?.(found.look)
    return line ? placed(line, combined(by, atRest(found))) : null
  }

  /** Keeps the line that an element moves along; tells where there is none. */
  private ride(element: Element): void {
    const { id, name, rides } = element
    if (!rides) return
    const line = this.pathBeside(element, rides.path, placing(0, 0, 1, 0))
    if (line) this.ridden.set(id, line)
    else {
      const sentence = `“${name || id}” is to move along a path that does not lie beside it, and stands where it is put.`
      this.toldRides.push({ id: 'rides-nothing', severity: 'warning', sentence })
    }
  }

  /** Values at a moment, with the place on the line that an element moves along. */
  riding({ id, rides }: Element, values: Moment['values']): Moment['values'] {
    const line = this.ridden.get(id)
    if (!line) return values
    const { x, y, turned } = traced(line, values.along).head
    return { ...values, x, y, rotation: values.rotation + (rides!.turned ? turned : 0) }
  }

  /** Letters that no type face has. */
  get missing(): string[] {
    return [...new Set([...this.shaped.values()].flatMap(({ missing }) => missing))]
  }

  /** What is otherwise than its elements ask for. */
  get told(): LaidFinding[] {
    return [
      ...[...this.shaped.values()].flatMap(({ told }) => told ?? []),
      ...this.toldRides,
      ...this.elements.flatMap(idleValues)
    ]
  }

  /** How often what an element lies in is drawn. */
  private copiesOf({ inside }: Element): number {
    const holder = this.elements.find(({ id }) => id === inside)
    if (!holder) return 1
    return this.copiesOf(holder) * (kindOf(holder.look).copies?.(holder.look)?.count ?? 1)
  }

  /** Seconds by which the copies of what an element lies in come later. */
  latersOf({ inside }: Element): number[] {
    const holder = this.elements.find(({ id }) => id === inside)
    if (!holder) return [0]
    const { count = 1, later = 0 } = kindOf(holder.look).copies?.(holder.look) ?? {}
    const own = later === 0 ? [0] : Array.from({ length: count }, (_, n) => n * later)
    const all = this.latersOf(holder).flatMap(before => own.map(by => before + by))
    return [...new Set(all.slice(0, MOST_COPIES))]
  }
}
