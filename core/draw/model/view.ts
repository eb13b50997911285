/**
 * How a model is looked at: size, camera, light, shadow, turntable, length and rate, as one line of text that the
 * description of a source keeps: "1920x1080 turned=45 shadow=0". What is not said is as usual.
 */
import { impossible } from '../../base/errors'
import {
  optionValues,
  problemOf,
  typedValue,
  type Fields,
  type OptionValues,
  type SettingsOf
} from '../../base/settings/field'

/** Frames a second that models are drawn at: their animation knows seconds only. */
export const RATE = 25

const degrees = (label: string, min: number, max: number, usual: number, help: string) =>
  ({ type: 'number', label, help, min, max, step: 1, unit: '°', default: usual }) as const

export const VIEW = {
  turned: degrees('Seen from', -180, 180, 0, 'Around it: 0 is its front, 90 its left side'),
  tilted: degrees('From above', -89, 89, 14, 'Above the horizon; below it with a minus'),
  near: {
    type: 'number',
    label: 'Near',
    help: 'How much nearer than where all of it is seen',
    min: 0.1,
    max: 10,
    step: 0.05,
    unit: '×',
    default: 1
  },
  lens: degrees('Lens', 5, 120, 30, 'The angle that the lower and upper edge of the picture lie apart'),
  own: { type: 'switch', label: 'Its own camera', help: 'Where the file brings one', default: true },
  sun: degrees('Light from', -180, 180, 34, 'Around it, from its front'),
  high: degrees('Light from above', 1, 90, 48, 'Above the horizon'),
  strong: {
    type: 'number',
    label: 'Light',
    help: 'How strong it is',
    min: 0,
    max: 5,
    step: 0.05,
    unit: '×',
    default: 1
  },
  shadow: {
    type: 'number',
    label: 'Shadow',
    help: 'How solid the shadow on the unseen floor is; 0 is none',
    min: 0,
    max: 1,
    step: 0.05,
    default: 0.4
  },
  turns: {
    type: 'choice',
    label: 'Turntable',
    choices: [
      { value: 'still', label: 'if nothing moves' },
      { value: 'once', label: 'turns once' },
      { value: 'never', label: 'does not turn' }
    ],
    default: 'still'
  },
  seconds: {
    type: 'number',
    label: 'Length',
    help: '0 is as long as its animation, or 4 s for a turn',
    min: 0,
    max: 600,
    step: 0.5,
    unit: 's',
    default: 0
  },
  rate: {
    type: 'number',
    label: 'Frames a second',
    help: 'Of what is drawn',
    min: 1,
    max: 120,
    step: 'any',
    typed: true,
    default: RATE
  }
} as const satisfies Fields
export type ModelView = SettingsOf<typeof VIEW>

/** What is asked for: a size as "WxH", or none, and how the model is looked at. */
export interface AskedView {
  size: string | undefined
  view: ModelView
}

/** A view from its line of text. Throws one clear error that names what is not understood, and what would be. */
export function readView(text: string | undefined): AskedView {
  const words = (text ?? '').trim().split(/\s+/).filter(Boolean)
  const size = words[0]?.includes('=') ? undefined : words.shift()
  const given: Record<string, string | number | boolean> = {}
  for (const word of words) {
    const [key, value] = [word.slice(0, Math.max(0, word.indexOf('='))), word.slice(word.indexOf('=') + 1)]
    if (!Object.hasOwn(VIEW, key))
      throw impossible(`a model has no “${key || word}”; it takes ${Object.keys(VIEW).join(', ')}, each as key=value`)
    const field = VIEW[key as keyof typeof VIEW]
    const typed = typedValue(field, value)
    const problem = problemOf(field, typed)
    if (problem) throw impossible(`${key}=${value}: ${problem}`)
    given[key] = typed as string | number | boolean
  }
  return { size, view: optionValues(VIEW, given) as ModelView }
}

/** The line of text of a view; what is as usual is left out. */
export function writeView({ size, view }: AskedView): string {
  const said = view as unknown as OptionValues
  const usual = optionValues(VIEW, {})
  const word = (value: string | number | boolean): string =>
    typeof value === 'boolean' ? (value ? 'on' : 'off') : String(value)
  const told = Object.keys(VIEW).flatMap(key => (said[key] === usual[key] ? [] : [`${key}=${word(said[key]!)}`]))
  return [...(size ? [size] : []), ...told].join(' ')
}
