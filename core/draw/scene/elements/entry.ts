/**
 * One field of an element's form: what it is called and may hold (as the schema says), what it shows, and what entering
 * it sets. A form draws it without knowing whose it is.
 */
import type { z } from 'zod'
import { HexColour } from '../../../base/colour'
import type { Choice, Field } from '../../../base/settings/field'
import type { Paint } from '../values'

export type Entered = string | number | boolean

/** A field of `R`: an element, or its look. */
export interface FormEntry<R> {
  /** Tells it from the others of the same form. */
  key: string
  field: Field
  value: Entered
  /** What undoing it is called. */
  undo: string
  /** Gives `root` what was entered, held to what the schema takes; what cannot be taken changes nothing. */
  set(root: R, value: unknown): void
}

/**
 * Whose field it is: an element, its shadow, the line along it. `now` says what its forms show, and so what is not
 * written too; `at` finds the owner in the root that changes.
 */
export interface Owner<R, T> {
  name: string
  undo: string
  now: T
  at: (root: R) => T | null
}

interface More {
  help?: string
  step?: number
  undo?: string
}
/** Names of fields that hold, where they are said, a value of `V`. */
type KeysOf<T, V> = Extract<{ [K in keyof T]-?: NonNullable<T[K]> extends V ? K : never }[keyof T], string>

/** What a number of the schema may lie between. */
export const boundsOf = (of: z.ZodNumber): { min: number; max: number } => ({
  min: of.minValue ?? -Infinity,
  max: of.maxValue ?? Infinity
})

/** A number held to what the schema takes; what is no number counts as 0. */
export function heldTo(of: z.ZodNumber, value: number): number {
  const { min, max } = boundsOf(of)
  return Math.min(max, Math.max(min, value || 0))
}

/** A field by any change it makes. */
export function entryOf<R, T>(
  owner: Owner<R, T>,
  { undo = owner.undo, ...own }: { field: Field; value: Entered; undo?: string | undefined },
  set: (target: T, value: unknown) => void
): FormEntry<R> {
  return {
    key: `${owner.name} ${own.field.label}`,
    undo,
    ...own,
    set(root, value) {
      const target = owner.at(root)
      if (target) set(target, value)
    }
  }
}

/** As forms show lengths: to the hundredth. */
export const rounded = (value: number): number => Math.round(value * 100) / 100

/** A number of the owner, within the bounds of its schema. */
export function numberEntry<R, T>(
  owner: Owner<R, T>,
  label: string,
  [key, of]: [KeysOf<T, number>, z.ZodNumber],
  { undo, ...more }: More = {}
): FormEntry<R> {
  const value = rounded(owner.now[key] as number)
  const field = { type: 'number', label, typed: true, step: 'any', ...boundsOf(of), default: value, ...more } as const
  return entryOf(owner, { field, value, undo }, (target, entered) => {
    const held = heldTo(of, Number(entered))
    // what is not written stays so until it is something else
    if (target[key] === undefined && held === value) return
    Object.assign(target as object, { [key]: of.isInt ? Math.round(held) : held })
  })
}

/** Choices that are called what they are. */
export const alike = (values: readonly string[]): Choice[] => values.map(value => ({ value, label: value }))

/** One of several. */
export function choiceEntry<R, T>(
  owner: Owner<R, T>,
  label: string,
  [key, choices]: [KeysOf<T, string>, readonly Choice[]],
  { undo, ...more }: More = {}
): FormEntry<R> {
  const value = owner.now[key] as string
  const field = { type: 'choice', label, choices, default: value, ...more } as const
  return entryOf(owner, { field, value, undo }, (target, entered) => {
    if (target[key] === undefined && entered === value) return
    if (choices.some(choice => choice.value === entered)) Object.assign(target as object, { [key]: entered })
  })
}

/** One of the elements beside it by id, or none of them; no field where there is nothing to choose. */
export function besideEntry<R, T>(
  owner: Owner<R, T>,
  { label, none, help }: { label: string; none: string; help?: string },
  [value, beside]: readonly [string | undefined, readonly Choice[]],
  set: (target: T, id: string | null) => void
): FormEntry<R>[] {
  if (!beside.length && value === undefined) return []
  const gone = value !== undefined && !beside.some(each => each.value === value)
  const choices = [{ value: '', label: none }, ...beside, ...(gone ? [{ value, label: 'one that is not here' }] : [])]
  const field = { type: 'choice', label, choices, default: value ?? '', ...(help ? { help } : {}) } as const
  const entry = entryOf(owner, { field, value: value ?? '' }, (target, entered) => {
    const found = choices.find(choice => choice.value === entered)
    if (found) set(target, found.value || null)
  })
  return [entry]
}

/** A field of one colour: `now` shows it, `set` enters another. */
export function colourEntry<R, T>(
  owner: Owner<R, T>,
  label: string,
  value: HexColour,
  set: (target: T, hex: HexColour) => void
): FormEntry<R> {
  return entryOf(owner, { field: { type: 'colour', label, default: value }, value }, (target, entered) => {
    const hex = HexColour.safeParse(entered)
    if (hex.success) set(target, hex.data)
  })
}

/** A field that is on or off. */
export function switchEntry<R, T>(
  owner: Owner<R, T>,
  label: string,
  value: boolean,
  set: (target: T, on: boolean) => void
): FormEntry<R> {
  const field = { type: 'switch', label, default: value } as const
  return entryOf(owner, { field, value }, (target, entered) => set(target, entered === true))
}

/** Words on one line, or on several. */
export function wordsEntry<R, T>(
  owner: Owner<R, T>,
  value: string,
  { undo, ...more }: { label: string; most: number; lines?: true; example?: string; help?: string; undo?: string },
  set: (target: T, words: string) => void
): FormEntry<R> {
  const field = { type: 'words', default: value, ...more } as const
  return entryOf(owner, { field, value, undo }, (target, entered) => set(target, String(entered).slice(0, more.most)))
}

const BLACK: HexColour = '#000000'

/** The colour of a paint, or the one its gradient begins with. */
export const firstOf = (paint: Paint): HexColour => (typeof paint === 'string' ? paint : paint.from)

/** The colour that a paint's gradient ends with; black where it has none. */
export const secondOf = (paint: Paint): HexColour => (typeof paint === 'string' ? BLACK : paint.to)

/** The paint with another first colour; a gradient stays one. */
export const fromColour = (paint: Paint, from: HexColour): Paint =>
  typeof paint === 'string' ? from : { ...paint, from }

/** The paint as a gradient that ends with this colour. */
export const toColour = (paint: Paint, to: HexColour): Paint => ({
  from: firstOf(paint),
  to,
  angle: typeof paint === 'string' ? 0 : paint.angle
})
