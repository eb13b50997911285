/** Counters and clocks: a number that runs from one value to another, its figures of one width. */
import type { Choice } from '../../../../base/settings/field'
import { FACES } from '../../../type/faces'
import { NOTHING, united } from '../../extent'
import type { Extent } from '../../ink'
import { EASES } from '../../values'
import { alike, choiceEntry, colourEntry, entryOf, firstOf, fromColour, numberEntry, wordsEntry } from '../entry'
import { elementKind } from '../kind'
import { lettered } from '../lettering'
import { inkOfLetters } from '../lettering/ink'
import { openLettering, type LaidGlyphs } from '../lettering/outlines'
import { lookOwner } from '../owner'
import { lettersOf, sayValue, valueAt } from './count'
import { schema, type CounterLook } from './look'

const SHOWS: readonly Choice[] = [
  { value: 'number', label: 'as a number' },
  { value: 'minutes', label: 'minutes and seconds' },
  { value: 'hours', label: 'hours, minutes, seconds' }
]

export const counter = elementKind({
  schema,
  name: 'Counter',
  help: 'A number or a clock that runs from one value to another; its figures are of one width where the face has such.',
  begins: {
    from: 'size',
    fresh: ({ height }): CounterLook => ({
      ...{ kind: 'counter', from: 0, to: 100, takes: 2, ease: 'slow out', shows: 'number', decimals: 0 },
      ...{ marks: '1 000.5', before: '', behind: '', face: 'sans-half-bold', colour: '#f6f3ea', tracking: 0 },
      ...{ size: Math.max(1, Math.round((160 * height) / 1080)), align: 'centre' }
    })
  },
  fills: { number: (look, value) => void (look.to = value) },
  comes: 'fade',
  moves: [],
  runs: ({ from, to }) => from !== to,
  paint: ({ colour }) => colour,
  lettered: look => [look],
  entries(look, offers) {
    const owner = lookOwner(look)
    const { shape } = schema
    const faces = [...FACES.map(({ id, label }) => ({ value: id, label })), ...offers.faces]
    const own = typeof look.ease !== 'string'
    const courses = [...alike(EASES), ...(own ? [{ value: '', label: 'its own' }] : [])]
    const course = own ? '' : (look.ease as string)
    return [
      numberEntry(owner, 'From', ['from', shape.from]),
      numberEntry(owner, 'To', ['to', shape.to]),
      numberEntry(owner, 'Takes, s', ['takes', shape.takes], { step: 0.1 }),
      entryOf(
        owner,
        { field: { type: 'choice', label: 'Course', choices: courses, default: course }, value: course },
        (now, entered) => {
          const ease = EASES.find(each => each === entered)
          if (ease) now.ease = ease
        }
      ),
      choiceEntry(owner, 'Shown', ['shows', SHOWS]),
      numberEntry(owner, 'Decimals', ['decimals', shape.decimals], { step: 1 }),
      choiceEntry(owner, 'Marks', ['marks', alike(shape.marks.options)]),
      wordsEntry(owner, look.before, { label: 'Before it', most: 80 }, (now, words) => void (now.before = words)),
      wordsEntry(owner, look.behind, { label: 'Behind it', most: 80, example: ' %' }, (now, words) => {
        now.behind = words
      }),
      choiceEntry(owner, 'Face', ['face', faces]),
      numberEntry(owner, 'Size', ['size', shape.size]),
      colourEntry(owner, 'Colour', firstOf(look.colour), (now, hex) => void (now.colour = fromColour(now.colour, hex))),
      choiceEntry(owner, 'Set', ['align', alike(shape.align.options)]),
      numberEntry(owner, 'Tracking', ['tracking', shape.tracking], { step: 10 })
    ]
  },
  async lay(look, laying) {
    const { face, size, colour, tracking, align } = look
    const words = lettered(lettersOf(look), size, { face, colour, tracking, align })
    const lay = await openLettering(words, laying, '+tnum')
    const all = lay(words.text)
    const ends = [look.from, look.to].map(value => lay(sayValue(look, value)).box)
    const box = ends.reduce<Extent>(united, NOTHING)
    // the same value is often drawn again: while it stands, and moment by moment
    let last: { text: string; laid: LaidGlyphs } | null = null
    return {
      box,
      missing: all.missing,
      told: all.told,
      draw(drawing) {
        const text = sayValue(look, valueAt(look, drawing.since))
        if (last?.text !== text) last = { text, laid: lay(text) }
        const { tint } = drawing.moment
        const { letters } = last.laid
        return inkOfLetters(size, tint ? letters.map(letter => ({ ...letter, colour: tint })) : letters, drawing)
      }
    }
  }
})
