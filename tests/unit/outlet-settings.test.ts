/** Settings of outlets, each in one place: what form, schema, command line and recipe make of them agrees. */
import { describe, expect, test } from 'vitest'
import { strapFacts } from './support'
import { counts, problemOf, schemaOf } from '../../core/base/settings/field'
import { newOutlet, Outlet, withFormat } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { FIELD_LABELS, outletSettings, settingsInOrder } from '../../core/job/outlet/settings'
import { formatById, formats } from '../../core/open/registry'
import { recipeOf } from '../../core/run/delivery/assess'

const png = formatById('png-sequence')
const facts = strapFacts()

test('a new outlet of every format is what the schema takes, and has every setting that is not left out', () => {
  for (const format of formats) {
    const outlet = newOutlet('one', format)
    expect(Outlet.safeParse(outlet).error?.issues).toBeUndefined()
    for (const [key, { fresh }] of settingsInOrder) expect(outlet[key]).toEqual(fresh(format))
    expect(withFormat(outlet, png).format).toBe('png-sequence')
  }
})

describe.each(settingsInOrder.filter(([, { form }]) => form))('%s', (key, { schema, form, label, fresh }) => {
  const { field } = form!

  test('is called in the form what faults call it, and begins there as a new outlet does', () => {
    expect([field.label, FIELD_LABELS[key]]).toEqual([label, label])
    expect(fresh(png) ?? field.default).toBe(field.default)
    expect(counts(field, {})).toBe(true)
  })

  test('its field takes what the schema takes, and refuses what it refuses', () => {
    const values: unknown[] = [-1, 0, 1, 4.5, 9, 10, 1e10, '', 'x', 'x'.repeat(201), null]
    if (field.type === 'choice') values.push(...field.choices.map(({ value }) => value))
    for (const value of values) {
      const taken = schema.safeParse(value).success
      const offered = problemOf(field, value) === null
      // a field of words cannot say that it must not be empty
      if (value !== '') expect(offered, `${String(value)}`).toBe(taken)
    }
    expect(schemaOf({ [key]: field }).safeParse({}).data).toEqual({ [key]: field.default })
  })
})

test.each(settingsInOrder.flatMap(([key, { typed = {} }]) => Object.keys(typed).map(flag => [flag, key] as const)))(
  '--set %s reads what the schema of %s takes, and nothing else',
  (flag, key) => {
    const { schema, typed } = outletSettings[key] as (typeof settingsInOrder)[number][1]
    const { read, takes } = typed![flag]!
    expect(takes.length).toBeGreaterThan(3)
    const good: Record<string, string> = {
      parts: 'fill-key',
      backing: '#102030',
      existing: 'stop',
      name: 'a',
      numbering: 'source'
    }
    const value = read(good[flag] ?? good[key] ?? '7', outletSettings[key].fresh(png))
    expect(schema.safeParse(value).success).toBe(true)
    const bad = read(flag === 'name' ? 'x'.repeat(201) : '-1', outletSettings[key].fresh(png))
    expect(bad === undefined || !schema.safeParse(bad).success).toBe(true)
  }
)

test('a frame that is typed is counted as far as the words say, and no further', () => {
  const { schema, typed } = outletSettings.range
  const taken = (text: string): boolean => schema.safeParse(typed!.to!.read(text, 'marked')).success
  expect(['1', '1000000000', '1000000001', '0', '-3', '2.5', ''].map(taken)).toEqual([
    true,
    true,
    false,
    false,
    false,
    false,
    false
  ])
  expect(typed!.from!.takes).toContain('1000000000')
})

test('what is in the recipe makes another one, and what is not leaves it as it was', () => {
  const planned = (changes: Partial<Outlet>): string =>
    recipeOf(planPour(facts, { ...newOutlet('one', png), ...changes }, null))
  const was = planned({})
  const other: Partial<Outlet> = {
    name: 'Other',
    parts: 'alpha-only',
    alpha: { mode: 'none' },
    backing: '#ffffff',
    depth: 8,
    namePattern: 'x',
    framePattern: 'y_{frame}',
    numbering: 'source',
    startNumber: 2,
    digits: 5,
    existing: 'stop',
    // frames and sound that come to the same
    range: 'all',
    sound: 'none'
  }
  for (const [key, { inRecipe }] of settingsInOrder) {
    if (key === 'format' || key === 'steps') continue
    expect(planned({ [key]: other[key] }) !== was, key).toBe(inRecipe)
  }
  expect(planned({ range: { from: 2, to: 9 } })).not.toBe(was)
  // saying what leaving it out says makes nothing out of date
  expect(planned({ numbering: 'own' })).toBe(was)
})
