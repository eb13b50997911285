/**
 * Settings: of steps, of formats with their containers and codecs, and of whatever comes. A kind of thing describes its
 * settings by fields; its form, its schema, its reading on the command line and its defaults are drawn from them.
 */
import { z } from 'zod'
import { HexColour } from '../colour'
import type { Box } from './box'
import { Shape, type ShapeAt } from './shape'

const BoxSchema: z.ZodType<Box> = z.object({
  x: z.number().int(),
  y: z.number().int(),
  width: z.number().int().min(1),
  height: z.number().int().min(1)
})

export interface Choice {
  value: string
  label: string
}

interface Described {
  readonly label: string
  readonly help?: string
  /** Counts only while another field has a value, or has not, and is shown only then. */
  when?: { field: string; is: string } | { field: string; not: string }
}

export type Field = Described &
  (
    | {
        type: 'number'
        min: number
        max: number
        /** From one value to the next; 1 where it is not said. */
        step?: number | 'any'
        unit?: string
        default: number
        /** Whole numbers alone. */
        whole?: true
        /** Less of it makes files smaller, at the cost of colour alone. */
        lightens?: true
        /** Kilobytes that the whole delivery is to come to; 0 aims at none. */
        aims?: true
        /** Typed only: the range is too wide to slide along. */ typed?: true
      }
    | {
        type: 'choice'
        choices: readonly Choice[]
        default: string
        /** Few and short: shown side by side. */
        row?: true
        /** What a new step has, where those kept from before must stay as they were. */
        fresh?: string
      }
    | {
        type: 'switch'
        default: boolean
        /** Carries colour into clear pixels, so that coding leaves no rim. */
        fillsEdges?: true
      }
    | { type: 'text'; pattern: string; example: string; default: string }
    /** Any words, on one line or several. */
    | { type: 'words'; most: number; lines?: true; example?: string; default: string }
    | {
        type: 'colour'
        default: HexColour
        /** It can be found in the picture: the colour of the screen behind the subject. */
        found?: 'screen'
      }
    /** The id of another source of the job; empty for none. */
    | { type: 'source'; default: string }
    | { type: 'rate'; default: string }
    /** A rectangle in pixels; null is the whole picture. */
    | { type: 'box'; default: Box | null }
    /** A shape at one frame or several, interpolated between. */
    | { type: 'shape'; default: ShapeAt[] }
  )

export type Fields = Readonly<Record<string, Field>>

type ValueOf<F extends Field> = F extends { type: 'number' }
  ? number
  : F extends { type: 'switch' }
    ? boolean
    : F extends { type: 'box' }
      ? Box | null
      : F extends { type: 'shape' }
        ? ShapeAt[]
        : string
export type SettingsOf<F extends Fields> = { readonly [K in keyof F]: ValueOf<F[K]> }

/** Whether a field counts as the settings stand. */
export function counts({ when }: Described, settings: Readonly<Record<string, unknown>>): boolean {
  return !when || ('is' in when ? settings[when.field] === when.is : settings[when.field] !== when.not)
}

function schemaOfField(field: Field): z.ZodType {
  switch (field.type) {
    case 'number':
      return (field.whole ? z.number().int() : z.number()).min(field.min).max(field.max)
    case 'choice':
      return z.enum(field.choices.map(choice => choice.value) as [string, ...string[]])
    case 'switch':
      return z.boolean()
    case 'text':
      return z.string().regex(new RegExp(`^(${field.pattern})?$`))
    case 'words':
      return z.string().max(field.most)
    case 'colour':
      return HexColour
    case 'box':
      return BoxSchema.nullable()
    case 'shape':
      return z.array(Shape)
    default:
      return z.string().max(200)
  }
}

/** The schema of settings: every field, none besides; a missing one takes its default. */
export function schemaOf(fields: Fields): z.ZodType<Record<string, unknown>> {
  return z.strictObject(
    Object.fromEntries(
      Object.entries(fields).map(([key, field]) => [key, schemaOfField(field).default(field.default as never)])
    )
  )
}

/** What a new thing has. */
const freshValue = (field: Field): unknown =>
  structuredClone('fresh' in field && field.fresh !== undefined ? field.fresh : field.default)

/** The defaults of these fields, by key. */
export function freshValues(fields: Fields): Record<string, unknown> {
  return Object.fromEntries(Object.entries(fields).map(([key, field]) => [key, freshValue(field)]))
}

/** What is wrong with a value, in a sentence that says what is needed, or null. */
export function problemOf(field: Field, value: unknown): string | null {
  if (schemaOfField(field).safeParse(value).success) return null
  switch (field.type) {
    case 'number':
      return `${field.label}: a ${field.whole ? 'whole ' : ''}number from ${field.min} to ${field.max} is needed.`
    case 'text':
      return `${field.label}: something like ${field.example} is needed, or nothing.`
    case 'choice':
      return `${field.label}: one of ${field.choices.map(c => c.value).join(', ')} is needed.`
    case 'switch':
      return `${field.label}: on or off is needed.`
    case 'colour':
      return `${field.label}: a colour such as #2f5d4a is needed.`
    default:
      return `${field.label}: this value is not taken.`
  }
}

/** A value as it is typed on a command line. */
export function typedValue(field: Field, text: string): unknown {
  if (field.type === 'number') return text.trim() === '' ? NaN : Number(text)
  return field.type === 'switch'
    ? text === 'on' || text === 'true'
      ? true
      : text === 'off' || text === 'false'
        ? false
        : text
    : text
}

/** Values that an outlet keeps: those of numbers, choices, switches and texts. */
export type OptionValues = Readonly<Record<string, string | number | boolean>>

/** The values of settings, with defaults where `given` says nothing. */
export function optionValues(fields: Fields, given: OptionValues): OptionValues {
  return Object.fromEntries(
    Object.entries(fields).map(([key, field]) => [key, given[key] ?? (field.default as OptionValues[string])])
  )
}

/** The defaults of a format's options, by key. */
export const freshOptions = (fields: Fields): OptionValues => freshValues(fields) as OptionValues

/** Of values that were given for other fields, those that these take as well; their own for the rest. */
export function keptOptions(fields: Fields, given: OptionValues): OptionValues {
  return Object.fromEntries(
    Object.entries(fields).map(([key, field]) => [
      key,
      problemOf(field, given[key]) ? (freshValue(field) as OptionValues[string]) : given[key]!
    ])
  )
}
