/** What a schema found wrong, as a sentence that names the field as the screen does. */
import type { z } from 'zod'

/** What fields are called on screen that whoever has them gives no names for. */
export const FIELD_NAMES: Readonly<Record<string, string>> = {
  name: 'Name',
  format: 'Format',
  from: 'First frame',
  to: 'Last frame',
  rate: 'Rate',
  pixelAspect: 'Pixel shape',
  matte: 'Matte colour',
  settings: 'Setting'
}

export type Issue = z.core.$ZodIssue

/** So many values that a field can have are told. */
const MOST_VALUES = 8

const isMissing = (issue: Issue): boolean =>
  issue.code === 'invalid_type' && issue.message.endsWith('received undefined')

/** What lies at a path of a value. */
export const lying = (whole: unknown, path: readonly PropertyKey[]): unknown =>
  path.reduce<unknown>((at, part) => (at as Record<PropertyKey, unknown> | null | undefined)?.[part], whole)

/** What is asked for, by its type. */
const NEEDED: Readonly<Record<string, string>> = {
  number: 'a number is needed',
  string: 'words are needed',
  boolean: 'true or false is needed',
  array: 'a list is needed',
  tuple: 'a list is needed',
  object: 'a set of named values is needed'
}

/** What is wrong with a field, without its name; of values that it can have, up to `most` are told. */
export function sayFault(given: Issue, most = MOST_VALUES): string {
  const issue = deepest(given)
  if (issue.code === 'custom') return issue.message
  if (isMissing(issue)) return 'it is missing'
  if (issue.code === 'invalid_value' && issue.values.length <= most)
    return `it is one of ${issue.values.map(value => JSON.stringify(value)).join(', ')}`
  if (issue.code === 'too_small') {
    const least = String(issue.minimum)
    return issue.origin === 'string' ? 'it cannot be empty' : `${least} is the least it can be`
  }
  if (issue.code === 'too_big')
    return issue.origin === 'string'
      ? `it can have ${String(issue.maximum)} letters at most`
      : `${String(issue.maximum)} is the most it can be`
  if (issue.code === 'invalid_type' && issue.expected === 'int') return 'a whole number is needed'
  if (issue.code === 'invalid_type') return NEEDED[issue.expected] ?? 'this is not understood'
  return 'this is not understood'
}

/** An issue of a union says nothing by itself: the reason lies with the branch that came furthest. */
export function deepest(issue: Issue): Issue {
  if (issue.code !== 'invalid_union') return issue
  const inner = issue.errors.flat().sort((a, b) => b.path.length - a.path.length)[0]
  return inner ? deepest({ ...inner, path: [...issue.path, ...inner.path] } as Issue) : issue
}

/**
 * The sentence for one thing that a schema found wrong; `names` are what its fields are called, `whole` what was
 * checked, which tells what is missing from what is wrong.
 */
export function sayIssue(given: Issue, names: Readonly<Record<string, string>> = FIELD_NAMES, whole?: unknown): string {
  const issue = deepest(given)
  // a custom message names its own field
  if (issue.code === 'custom') return `${issue.message}.`
  const named = issue.path.findLast(part => typeof part === 'string' && part in names)
  const name = named ? names[String(named)] : issue.path.map(String).join('.')
  const missing =
    isMissing(issue) || (whole !== undefined && issue.path.length > 0 && lying(whole, issue.path) === undefined)
  if (missing && name) return `${name} is missing.`
  return `${name || 'The job'}: ${sayFault(issue)}.`
}
