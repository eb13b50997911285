/**
 * The fields of an element's form: what each shows, what it may hold (as the scene's own schema says), what it sets.
 */
import type { z } from 'zod'
import { HexColour } from '~~/core/base/colour'
import { FACES } from '~~/core/draw/scene/faces'
import * as scene from '~~/core/draw/scene/scene'
import type { Element, Look, Paint } from '~~/core/draw/scene/scene'

export interface Choice {
  value: string
  label: string
}

/** One field. `set` gives an element what was entered; `undo` is what undoing that is called. */
export interface Part {
  /** Tells it from the others of its element. */
  id: string
  label: string
  kind: 'number' | 'words' | 'lines' | 'colour' | 'choice' | 'tick'
  value: string | number | boolean
  least?: number
  most?: number
  step?: number | 'any'
  choices?: readonly Choice[]
  hint?: string
  undo: string
  set: (element: Element, value: string | number | boolean) => void
}

/**
 * Fields of one owner: an element, its shadow, or what it looks like. `at` finds the owner in the element that changes.
 */
interface Owner<T> {
  name: string
  undo: string
  now: T
  at: (element: Element) => T | null
}

type More = Partial<Pick<Part, 'hint' | 'step' | 'undo'>>
type KeysOf<T, V> = Extract<{ [K in keyof T]: T[K] extends V ? K : never }[keyof T], string>

/** What a number of the schema may lie between. */
export const boundsOf = (of: z.ZodNumber): { least: number; most: number } => ({
  least: of.minValue ?? -Infinity,
  most: of.maxValue ?? Infinity
})

/** A number held to what the schema takes; what is no number counts as 0. */
export function heldTo(of: z.ZodNumber, value: number): number {
  const { least, most } = boundsOf(of)
  return Math.min(most, Math.max(least, value || 0))
}

/** A field of a record, by any change it makes. */
function part<T>(
  owner: Owner<T>,
  own: Omit<Part, 'id' | 'undo' | 'set'> & { undo?: string },
  set: (target: T, value: string | number | boolean) => void
): Part {
  return {
    id: `${owner.name} ${own.label}`,
    undo: owner.undo,
    ...own,
    set(element, value) {
      const target = owner.at(element)
      if (target) set(target, value)
    }
  }
}

const rounded = (value: number): number => Math.round(value * 100) / 100

function numberPart<T>(owner: Owner<T>, label: string, [key, of]: [KeysOf<T, number>, z.ZodNumber], more?: More): Part {
  const value = rounded(owner.now[key] as number)
  return part(owner, { label, kind: 'number', value, step: 'any', ...boundsOf(of), ...more }, (target, entered) => {
    const held = heldTo(of, Number(entered))
    Object.assign(target as object, { [key]: of.isInt ? Math.round(held) : held })
  })
}

const alike = (values: readonly string[]): Choice[] => values.map(value => ({ value, label: value }))

function choicePart<T>(
  owner: Owner<T>,
  label: string,
  [key, choices]: [KeysOf<T, string>, readonly Choice[]],
  more?: More
): Part {
  const value = owner.now[key] as string
  return part(owner, { label, kind: 'choice', value, choices, ...more }, (target, entered) => {
    if (choices.some(choice => choice.value === entered)) Object.assign(target as object, { [key]: entered })
  })
}

function colourPart<T>(
  owner: Owner<T>,
  label: string,
  value: HexColour,
  set: (target: T, hex: HexColour) => void
): Part {
  return part(owner, { label, kind: 'colour', value }, (target, entered) => {
    const hex = HexColour.safeParse(entered)
    if (hex.success) set(target, hex.data)
  })
}

function tickPart<T>(owner: Owner<T>, label: string, value: boolean, set: (target: T, on: boolean) => void): Part {
  return part(owner, { label, kind: 'tick', value }, (target, entered) => set(target, entered === true))
}

const BLACK: HexColour = '#000000'
const firstOf = (paint: Paint): HexColour => (typeof paint === 'string' ? paint : paint.from)
const secondOf = (paint: Paint): HexColour => (typeof paint === 'string' ? BLACK : paint.to)
const fromColour = (paint: Paint, from: HexColour): Paint => (typeof paint === 'string' ? from : { ...paint, from })
const toColour = (paint: Paint, to: HexColour): Paint => ({
  from: firstOf(paint),
  to,
  angle: typeof paint === 'string' ? 0 : paint.angle
})

type LookOf<K extends Look['kind']> = Extract<Look, { kind: K }>

const lookOwner = <K extends Look['kind']>(look: LookOf<K>): Owner<LookOf<K>> => ({
  name: 'look',
  undo: 'Change the style',
  now: look,
  at: element => (element.look.kind === look.kind ? (element.look as LookOf<K>) : null)
})

const FACE_CHOICES: readonly Choice[] = FACES.map(({ id, label }) => ({ value: id, label }))

function letteringParts(look: LookOf<'text'>, faces: readonly Choice[]): Part[] {
  const owner = lookOwner(look)
  const { shape } = scene.Lettering
  return [
    part(owner, { label: 'Text', kind: 'lines', value: look.text }, (now, text) => void (now.text = String(text))),
    part(owner, { label: 'Column', kind: 'words', hint: 'of a table', value: look.field ?? '' }, (now, words) => {
      now.field = String(words).trim().slice(0, 60) || null
    }),
    choicePart(owner, 'Face', ['face', [...FACE_CHOICES, ...faces]]),
    numberPart(owner, 'Size', ['size', shape.size]),
    colourPart(owner, 'Colour', firstOf(look.colour), (now, hex) => void (now.colour = fromColour(now.colour, hex))),
    choicePart(owner, 'Set', ['align', alike(shape.align.options)]),
    numberPart(owner, 'Tracking', ['tracking', shape.tracking], { step: 10 }),
    numberPart(owner, 'Leading', ['leading', shape.leading], { step: 0.05 }),
    ...accentParts(look, faces)
  ]
}

/** Words that are set otherwise: a tick for each, and one for one more. */
function accentParts(look: LookOf<'text'>, faces: readonly Choice[]): Part[] {
  const owner = lookOwner(look)
  const accents = look.accents ?? []
  const { shape } = scene.Accent
  return [...accents, null].slice(0, scene.MOST.accents).flatMap((now, n) => {
    const more = n === 0 ? 'Some words otherwise' : 'More words otherwise'
    const name = now && n > 0 ? `Words otherwise, ${n + 1}` : more
    const tick = tickPart(owner, name, now !== null, (target, on) => {
      const others = (target.accents ?? []).filter((_, k) => k !== n)
      target.accents = on ? [...others, firstAccent(target)] : others
      if (target.accents.length === 0) delete target.accents
    })
    if (!now) return [tick]
    const its: Owner<scene.Accent> = {
      name: `accent ${n + 1}`,
      undo: 'Change the style',
      now,
      at: element => (element.look.kind === 'text' ? (element.look.accents?.[n] ?? null) : null)
    }
    return [
      tick,
      part(its, { label: 'Words', kind: 'words', value: now.words, hint: 'as they stand in the text' }, (to, words) => {
        to.words = String(words).slice(0, shape.words.maxLength ?? 200)
      }),
      colourPart(its, 'Their colour', firstOf(now.colour), (to, hex) => void (to.colour = fromColour(to.colour, hex))),
      choicePart(its, 'Their face', ['face', [...FACE_CHOICES, ...faces]]),
      numberPart(its, 'Their size, ×', ['scale', shape.scale], { step: 0.05 })
    ]
  })
}

/** The first word of a lettering in another colour. */
function firstAccent(look: LookOf<'text'>): scene.Accent {
  return { words: look.text.trim().split(/\s+/)[0]!.slice(0, 200), face: look.face, colour: '#d88b5c', scale: 1 }
}

/** The line along a figure or a path. */
function strokeParts(look: LookOf<'shape'> | LookOf<'path'>, colour: string): Part[] {
  if (!look.stroke) return []
  const { shape } = scene.Stroke
  const owner: Owner<scene.Stroke> = {
    name: 'stroke',
    undo: 'Change the style',
    now: look.stroke,
    at: element => (element.look.kind === look.kind ? (element.look as typeof look).stroke : null)
  }
  return [
    colourPart(owner, colour, look.stroke.colour, (now, hex) => void (now.colour = hex)),
    numberPart(owner, 'Line width', ['width', shape.width], { step: 0.5 })
  ]
}

function fillParts(look: LookOf<'shape'>): Part[] {
  const { fill } = look
  if (fill === null) return []
  const owner = lookOwner(look)
  const paint = (now: LookOf<'shape'>, change: (paint: Paint) => Paint): void =>
    void (now.fill = change(now.fill ?? fill))
  const gradient = typeof fill !== 'string'
  return [
    colourPart(owner, 'Fill', firstOf(fill), (now, hex) => paint(now, was => fromColour(was, hex))),
    tickPart(owner, 'To another', gradient, (now, on) =>
      paint(now, was => (on ? toColour(was, secondOf(was)) : firstOf(was)))
    ),
    ...(gradient
      ? [colourPart(owner, 'Other', secondOf(fill), (now, hex) => paint(now, was => toColour(was, hex)))]
      : []),
    numberPart(owner, 'Solid', ['fillOpacity', scene.Figure.shape.fillOpacity], {
      step: 0.05,
      hint: 'How solid the fill is: 0.6 lets 40 % of what lies behind through'
    })
  ]
}

function figureParts(look: LookOf<'shape'>): Part[] {
  const owner = lookOwner(look)
  const { shape } = scene.Figure
  const pointed = look.form === 'polygon' || look.form === 'star'
  return [
    choicePart(owner, 'Form', ['form', alike(shape.form.options)]),
    numberPart(owner, 'Width', ['width', shape.width]),
    numberPart(owner, 'Height', ['height', shape.height]),
    ...(look.form === 'rectangle' ? [numberPart(owner, 'Corners', ['corner', shape.corner])] : []),
    ...(pointed ? [numberPart(owner, 'Points', ['points', shape.points], { step: 1 })] : []),
    ...(look.form === 'star' ? [numberPart(owner, 'Inner', ['inner', shape.inner], { step: 0.05 })] : []),
    tickPart(owner, 'Filled', look.fill !== null, (now, on) => void (now.fill = on ? '#175c4e' : null)),
    ...fillParts(look),
    tickPart(owner, 'Outlined', look.stroke !== null, (now, on) => {
      now.stroke = on ? { colour: '#e2b242', width: 6 } : null
    }),
    ...strokeParts(look, 'Outline')
  ]
}

/** Its shape stays: the height follows the width. */
function widthPart(look: LookOf<'picture'> | LookOf<'clip'>): Part {
  const { shape } = scene.Picture
  const most = Math.min(1, look.width / look.height) * boundsOf(shape.width).most
  const own = { label: 'Width', kind: 'number', value: rounded(look.width), step: 'any', least: 1, most } as const
  return part(lookOwner(look), own, (now, entered) => {
    const width = heldTo(shape.width, Number(entered))
    now.height = heldTo(shape.height, (now.height * width) / now.width)
    now.width = width
  })
}

/**
 * What shows another source: from which of its pictures on, counted from 1 as everywhere, and what follows its last.
 */
function clipParts(look: LookOf<'clip'>): Part[] {
  const owner = lookOwner(look)
  const { most } = boundsOf(scene.ClipLook.shape.from)
  return [
    widthPart(look),
    part(
      owner,
      { label: 'From its frame', kind: 'number', value: look.from + 1, step: 1, least: 1, most: most + 1 },
      (now, entered) => void (now.from = Math.round(heldTo(scene.ClipLook.shape.from, Number(entered) - 1)))
    ),
    choicePart(owner, 'After its last', [
      'ends',
      [
        { value: 'holds', label: 'it stays' },
        { value: 'repeats', label: 'it begins again' }
      ]
    ])
  ]
}

function pathParts(look: LookOf<'path'>): Part[] {
  const owner = lookOwner(look)
  const { shape } = scene.Path
  const points = look.points.flatMap((point, n) => {
    const here: Owner<scene.PathPoint> = {
      ...owner,
      name: `point ${n}`,
      now: point,
      at: element => owner.at(element)?.points[n] ?? null
    }
    return [
      numberPart(here, `Point ${n + 1} across`, ['x', scene.PathPoint.shape.x]),
      numberPart(here, `Point ${n + 1} down`, ['y', scene.PathPoint.shape.y])
    ]
  })
  return [
    ...strokeParts(look, 'Colour'),
    choicePart(owner, 'Rider', ['rider', alike(shape.rider.options)]),
    ...(look.rider === 'none' ? [] : [numberPart(owner, 'Its size', ['riderSize', shape.riderSize])]),
    tickPart(owner, 'Closed', look.closed, (now, on) => void (now.closed = on)),
    ...points
  ]
}

function lookParts(look: Look, faces: readonly Choice[]): Part[] {
  if (look.kind === 'text') return letteringParts(look, faces)
  if (look.kind === 'shape') return figureParts(look)
  if (look.kind === 'group') return []
  if (look.kind === 'clip') return clipParts(look)
  return look.kind === 'picture' ? [widthPart(look)] : pathParts(look)
}

type Under = 'shadow' | 'glow'
const UNDER = {
  shadow: { undo: 'Shadow', first: { x: 0, y: 8, soft: 20, colour: BLACK, opacity: 0.5 } },
  glow: { undo: 'Glow', first: { soft: 30, colour: '#e2b242', opacity: 0.8 } }
} as const

function setAdded({ glow }: Element, on: boolean): void {
  if (glow && on) glow.added = true
  else delete glow?.added
}

/** What lies under an element. */
function underParts(element: Element, own: Owner<Element>, which: Under): Part[] {
  const { undo, first } = UNDER[which]
  const on = tickPart({ ...own, undo }, undo, element[which] !== null, (now, ticked) =>
    Object.assign(now, { [which]: ticked ? { ...first } : null })
  )
  const now: scene.Glow | null = element[which]
  if (!now) return [on]
  const owner: Owner<scene.Glow> = { name: which, undo, now, at: changed => changed[which] }
  const { shape } = scene.Glow
  const { shadow } = element
  const cast: Owner<scene.Shadow> | null =
    which === 'shadow' && shadow ? { name: which, undo, now: shadow, at: changed => changed.shadow } : null
  return [
    on,
    colourPart(owner, 'Its colour', now.colour, (target, hex) => void (target.colour = hex)),
    numberPart(owner, 'Soft', ['soft', shape.soft]),
    numberPart(owner, 'Solid', ['opacity', shape.opacity], { step: 0.05 }),
    ...(which === 'glow'
      ? [tickPart({ ...own, undo }, 'Light added', !!now.added, (changed, ticked) => setAdded(changed, ticked))]
      : []),
    ...(cast
      ? [
          numberPart(cast, 'Cast across', ['x', scene.Shadow.shape.x]),
          numberPart(cast, 'Cast down', ['y', scene.Shadow.shape.y])
        ]
      : [])
  ]
}

/**
 * The fields of an element in their order: its name, what it looks like, where it lies, what lies under it. `faces` are
 * the scene's own.
 */
export function elementParts(element: Element, faces: readonly Choice[] = []): Part[] {
  const { shape } = scene.Element
  const own: Owner<Element> = { name: 'element', undo: 'Move', now: element, at: changed => changed }
  return [
    part(own, { label: 'Called', kind: 'words', value: element.name, undo: 'Rename' }, (now, words) => {
      now.name = String(words).slice(0, 80)
    }),
    ...lookParts(element.look, faces),
    numberPart(own, 'Across', ['x', shape.x]),
    numberPart(own, 'Down', ['y', shape.y]),
    numberPart(own, 'Scale', ['scale', shape.scale]),
    numberPart(own, 'Turned, °', ['rotation', shape.rotation]),
    numberPart(own, 'Opacity', ['opacity', shape.opacity], { step: 0.05 }),
    choicePart(own, 'Kept at', ['pin', alike(shape.pin.options)], {
      hint: 'The corner whose distance it keeps in another size',
      undo: 'Pin'
    }),
    ...underParts(element, own, 'shadow'),
    ...underParts(element, own, 'glow')
  ]
}
