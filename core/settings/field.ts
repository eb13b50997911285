/** Settings that a format, a container or a codec has: form, validation and command line are drawn from their fields. */

/** A setting only some formats have. The outlet form draws it; the command line takes it with --set key=value. */
export type OptionField =
  | { key: string; label: string; help: string; kind: 'integer'; min: number; max: number; default: number }
  | {
      key: string
      label: string
      help: string
      kind: 'choice'
      choices: readonly { value: string; label: string }[]
      default: string
      /** What a new outlet has, where those kept from before must stay as they were. */
      fresh?: string
    }
  | { key: string; label: string; help: string; kind: 'switch'; default: boolean }
  | { key: string; label: string; help: string; kind: 'text'; pattern: string; example: string; default: string }

export type OptionValues = Readonly<Record<string, string | number | boolean>>

/** The values of a format's own options, with defaults where `given` says nothing. */
export function optionValues(fields: readonly OptionField[], given: OptionValues): OptionValues {
  return Object.fromEntries(fields.map(field => [field.key, given[field.key] ?? field.default]))
}

/** What a new outlet has. */
export const freshOption = (field: OptionField): string | number | boolean =>
  field.kind === 'choice' ? (field.fresh ?? field.default) : field.default

/** Of values that were given for another format, those that this one takes as well; its own for the rest. */
export function keptOptions(fields: readonly OptionField[], given: OptionValues): OptionValues {
  return Object.fromEntries(
    fields.map(field => [field.key, optionProblem(field, given[field.key]) ? freshOption(field) : given[field.key]!])
  )
}

/** What is wrong with one option's value, or null. */
export function optionProblem(field: OptionField, value: unknown): string | null {
  if (field.kind === 'integer')
    return Number.isInteger(value) && (value as number) >= field.min && (value as number) <= field.max
      ? null
      : `${field.label}: a whole number from ${field.min} to ${field.max} is needed.`
  if (field.kind === 'text')
    return typeof value === 'string' && new RegExp(`^(${field.pattern})?$`).test(value)
      ? null
      : `${field.label}: something like ${field.example} is needed, or nothing.`
  if (field.kind === 'choice')
    return field.choices.some(c => c.value === value)
      ? null
      : `${field.label}: one of ${field.choices.map(c => c.value).join(', ')} is needed.`
  return typeof value === 'boolean' ? null : `${field.label}: on or off is needed.`
}
