/**
 * What an outlet of any format is set to: each setting stands here once, with its bounds, what a new outlet has, its
 * words, its field in the form, its way to be typed, and how it counts among what decides the bytes. Schema, form,
 * command line, documentation and recipe are drawn from it.
 */
import { z } from 'zod'
import { HexColour } from '../../base/colour'
import { FIELD_NAMES } from '../../base/say-issue'
import type { Field } from '../../base/settings/field'
import { AlphaMode, Depth } from '../../frame/frame'
import { CARRIAGE_IDS } from '../../media/carriage/carriage'
import { holdsAlpha } from '../../media/formats/traits/carrying'
import { FORMAT_IDS } from '../../open/registry'
import type { Listed } from '../../open/rows'
import { Step } from '../../prepare/preparation'

export const ExistingPolicy = z.enum(['replace', 'keep-both', 'stop'])
export type ExistingPolicy = z.infer<typeof ExistingPolicy>

/** Which parts of a picture an outlet delivers. A fill and its key are two deliveries of equal length. */
export const Parts = z.enum(CARRIAGE_IDS)
export type Parts = z.infer<typeof Parts>

/** Sound is left out, or carried as it is. */
export const Sound = z.enum(['as-is', 'none'])
export type Sound = z.infer<typeof Sound>

/** A way to say a setting on the command line: `takes` in words, `read` the value, to be held to the schema. */
export interface TypedSetting {
  takes: string
  /** Undefined where the text is another setting's of the same flag. */
  read(text: string, now: unknown): unknown
}

export interface OutletSetting<S extends z.ZodType = z.ZodType> {
  readonly schema: S
  /** Of a new outlet; undefined where it is left out. */
  readonly fresh: (format: Listed) => z.infer<S>
  /** What leaving it out of an outlet says, where that may be. */
  readonly leftOut?: z.infer<S>
  /** What it is called on screen and in faults. */
  readonly label: string
  /** What it means, for whoever writes an outlet's file. */
  readonly says: string
  /** Its field, and the part of the form that it stands in; none where the form draws it by hand. */
  readonly form?: { part: 'names' | 'sound'; field: Field; only?: 'film' | 'pictures' }
  /** By the name that `--set` has for it. */
  readonly typed?: Readonly<Record<string, TypedSetting>>
  /** Results made under another value are out of date; else it decides nothing, or the plan holds what it came to. */
  readonly inRecipe: boolean
}

const setting = <S extends z.ZodType>(of: OutletSetting<S>): OutletSetting<S> => of

const asText: TypedSetting['read'] = text => text
const whole = (text: string): number => (/^\d+$/.test(text.trim()) ? Number(text) : NaN)
/** A frame may be counted up to here where an end of a range is typed. */
const MOST_FRAMES = 1e9
const frameOf = (text: string): number => {
  const frame = whole(text)
  return frame <= MOST_FRAMES ? frame : NaN
}
const rangeOf = (now: unknown): { from: number; to: number } =>
  typeof now === 'object' ? (now as { from: number; to: number }) : { from: 1, to: MOST_FRAMES }
/** Numbers that frames can begin with, and digits they can have. */
const NUMBERS = { least: 0, most: 999_999_999 }
const DIGITS = { least: 1, most: 9 }
const LONGEST = { name: 80, pattern: 200 }

export const outletSettings = {
  name: setting({
    schema: z.string().min(1).max(LONGEST.name),
    fresh: format => format.name,
    label: 'Name',
    says: 'What it is called; part of file names where the pattern says so.',
    inRecipe: true
  }),
  format: setting({
    schema: z.enum(FORMAT_IDS),
    fresh: format => format.id,
    label: 'Format',
    says: 'Id of a format; the list stands in the README.',
    inRecipe: true
  }),
  parts: setting({
    schema: Parts.default('colour-alpha'),
    fresh: (format): Parts => (holdsAlpha(format) ? 'colour-alpha' : 'fill-key'),
    label: 'Carries',
    says: `${CARRIAGE_IDS.map(id => `\`${id}\``)
      .join(', ')
      .replace(/, ([^,]*)$/, ' or $1')}; \`colour-alpha\` where it is left out.`,
    typed: { parts: { takes: `one of ${CARRIAGE_IDS.join(', ')}`, read: asText } },
    inRecipe: true
  }),
  /** Of the whole; for a fill and key, how the fill's colour stands to its key. Without meaning for one part alone. */
  alpha: setting({
    schema: AlphaMode,
    fresh: (format): AlphaMode =>
      format.alpha.straight.can || !holdsAlpha(format)
        ? { mode: 'straight' }
        : { mode: 'premultiplied', matte: '#000000' },
    label: 'Alpha',
    says: '`{ "mode": "straight" }`, `{ "mode": "premultiplied", "matte": "#000000" }` or `{ "mode": "none" }`.',
    inRecipe: true
  }),
  backing: setting({
    schema: HexColour.default('#000000'),
    fresh: () => '#000000',
    label: 'Backing colour',
    says: 'What colour alone is laid on; black where it is left out.',
    typed: { backing: { takes: 'a colour such as #2f5d4a', read: asText } },
    inRecipe: true
  }),
  depth: setting({
    schema: Depth,
    fresh: format => format.depths.at(-1)!.depth,
    label: 'Depth',
    says: '8, 16, or 32 for floating point, as the format offers.',
    inRecipe: true
  }),
  /** The source's marked range, the whole of it, or frames counted from 1. */
  range: setting({
    schema: z.union([
      z.enum(['marked', 'all']),
      z.object({ from: z.number().int().min(1), to: z.number().int().min(1) })
    ]),
    fresh: () => 'marked' as const,
    label: 'Range',
    says: '`"marked"`: as marked on the source; `"all"`; or `{ "from": 1, "to": 48 }`, counted from 1.',
    typed: {
      from: {
        takes: `a whole number from 1 to ${MOST_FRAMES}`,
        read: (text, now) => ({ ...rangeOf(now), from: frameOf(text) })
      },
      to: {
        takes: `a whole number from 1 to ${MOST_FRAMES}`,
        read: (text, now) => ({ ...rangeOf(now), to: frameOf(text) })
      }
    },
    // the plan holds the frames it comes to
    inRecipe: false
  }),
  namePattern: setting({
    schema: z.string().min(1).max(LONGEST.pattern),
    fresh: () => '{source}_{outlet}',
    label: 'File name',
    says: 'Name without extension. `{source}`, `{outlet}` and others are filled in; the form lists them.',
    form: {
      part: 'names',
      field: {
        type: 'words',
        label: 'File name',
        most: LONGEST.pattern,
        default: '{source}_{outlet}',
        help: 'Without its ending; pictures go into a ZIP or folder of this name.'
      }
    },
    inRecipe: true
  }),
  framePattern: setting({
    schema: z.string().min(1).max(LONGEST.pattern),
    fresh: () => '{source}_{frame}',
    label: 'Picture names',
    says: 'Name of each picture of a sequence, with `{frame}` in it.',
    form: {
      part: 'names',
      only: 'pictures',
      field: { type: 'words', label: 'Picture names', most: LONGEST.pattern, default: '{source}_{frame}' }
    },
    typed: { name: { takes: 'a name', read: asText } },
    inRecipe: true
  }),
  /** From the first that is delivered; where the source's pictures had no numbers, from `startNumber` too. */
  numbering: setting({
    schema: z.enum(['own', 'source']).optional(),
    fresh: () => undefined,
    leftOut: 'own',
    label: 'Frame numbers',
    says: '`"source"` numbers pictures as those of the source were; left out, from `startNumber`.',
    form: {
      part: 'names',
      only: 'pictures',
      field: {
        type: 'choice',
        label: 'Frame numbers',
        row: true,
        choices: [
          { value: 'own', label: 'from the first number' },
          { value: 'source', label: "as the source's, else from it" }
        ],
        default: 'own'
      }
    },
    typed: { start: { takes: 'a whole number', read: text => (text === 'source' ? text : undefined) } },
    inRecipe: true
  }),
  startNumber: setting({
    schema: z.number().int().min(NUMBERS.least).max(NUMBERS.most),
    fresh: () => 1,
    label: 'First number',
    says: 'Number of the first picture.',
    form: {
      part: 'names',
      only: 'pictures',
      field: {
        type: 'number',
        label: 'First number',
        min: NUMBERS.least,
        max: NUMBERS.most,
        whole: true,
        typed: true,
        default: 1
      }
    },
    typed: { start: { takes: `a whole number from ${NUMBERS.least} to ${NUMBERS.most}`, read: whole } },
    inRecipe: true
  }),
  digits: setting({
    schema: z.number().int().min(DIGITS.least).max(DIGITS.most),
    fresh: () => 4,
    label: 'Digits',
    says: `Digits of the frame number, ${DIGITS.least} to ${DIGITS.most}.`,
    form: {
      part: 'names',
      only: 'pictures',
      field: {
        type: 'number',
        label: 'Digits',
        min: DIGITS.least,
        max: DIGITS.most,
        whole: true,
        typed: true,
        default: 4
      }
    },
    typed: { digits: { takes: `a whole number from ${DIGITS.least} to ${DIGITS.most}`, read: whole } },
    inRecipe: true
  }),
  existing: setting({
    schema: ExistingPolicy,
    fresh: () => 'replace' as const,
    label: 'If it is there',
    says: 'A file of the name that is there already: `"replace"`, `"keep-both"` or `"stop"`.',
    form: {
      part: 'names',
      field: {
        type: 'choice',
        label: 'If it is there',
        row: true,
        choices: [
          { value: 'replace', label: 'Replace' },
          { value: 'keep-both', label: 'Keep both' },
          { value: 'stop', label: 'Stop' }
        ],
        default: 'replace'
      }
    },
    typed: { existing: { takes: `one of ${ExistingPolicy.options.join(', ')}`, read: asText } },
    inRecipe: false
  }),
  sound: setting({
    schema: Sound.default('as-is'),
    fresh: () => 'as-is' as const,
    label: 'Sound of the source',
    says: '`"as-is"` or `"none"`; `"as-is"` where it is left out.',
    form: {
      part: 'sound',
      only: 'film',
      field: {
        type: 'choice',
        label: 'Sound of the source',
        row: true,
        choices: [
          { value: 'as-is', label: 'As it is' },
          { value: 'none', label: 'None' }
        ],
        default: 'as-is'
      }
    },
    // the plan holds what of it is heard
    inRecipe: false
  }),
  /** What is done to every source on its way: size, rate, shape of pixels. */
  steps: setting({
    schema: z.array(Step).max(40).default([]),
    fresh: () => [],
    label: 'Steps',
    says: 'Steps of its own, done to every source on the way, as in a preparation; none where it is left out.',
    // of these only those that are done to a source count, and the plan holds them
    inRecipe: false
  })
} as const

export type OutletSettingKey = keyof typeof outletSettings

type Schemas = { -readonly [K in OutletSettingKey]: (typeof outletSettings)[K]['schema'] }

/** The schemas of all of them, by key. */
export const settingSchemas = Object.fromEntries(
  Object.entries(outletSettings).map(([key, { schema }]) => [key, schema])
) as unknown as Schemas

/** Settings with their keys, in the order of a file. */
export const settingsInOrder = Object.entries(outletSettings) as unknown as readonly [OutletSettingKey, OutletSetting][]

/** What faults call the fields of a job and its outlets. */
export const FIELD_LABELS: Readonly<Record<string, string>> = {
  ...Object.fromEntries(settingsInOrder.map(([key, { label }]) => [key, label])),
  ...FIELD_NAMES
}
