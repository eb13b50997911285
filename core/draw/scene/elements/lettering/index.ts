/** Lettering: words in a type face, some of them set otherwise; whole, or letter by letter. */
import type { Choice } from '../../../../base/settings/field'
import { FACES } from '../../../type/faces'
import { MOST } from '../../values'
import { cutAtSides } from '../../wipe'
import {
  alike,
  choiceEntry,
  colourEntry,
  entryOf,
  firstOf,
  fromColour,
  numberEntry,
  switchEntry,
  wordsEntry,
  type FormEntry,
  type Owner
} from '../entry'
import { elementKind } from '../kind'
import { lookOwner } from '../owner'
import { Accent } from './accents'
import { inkOfLetters } from './ink'
import { LetteringBox, schema, type LetteringLook } from './look'
import { ontoEntries, ontoPath } from './onto'
import { layLettering } from './outlines'

/** Words of this size, in pixels. */
export const lettered = (text: string, size: number, more: Partial<LetteringLook> = {}): LetteringLook => ({
  kind: 'text',
  text,
  field: null,
  face: 'sans-half-bold',
  size,
  colour: '#f6f3ea',
  tracking: 0,
  leading: 1.2,
  align: 'left',
  ...more
})

const SHIPPED: readonly Choice[] = FACES.map(({ id, label }) => ({ value: id, label }))

/** The first word of a lettering in another colour. */
const firstAccent = ({ text, face }: LetteringLook): Accent => ({
  words: text.trim().split(/\s+/)[0]!.slice(0, 200),
  face,
  colour: '#d88b5c',
  scale: 1
})

/** Words that are set otherwise: a switch for each, and one for one more. */
function accentEntries(look: LetteringLook, faces: readonly Choice[]): FormEntry<LetteringLook>[] {
  const owner = lookOwner(look)
  return [...(look.accents ?? []), null].slice(0, MOST.accents).flatMap((now, n) => {
    const more = n === 0 ? 'Some words otherwise' : 'More words otherwise'
    const name = now && n > 0 ? `Words otherwise, ${n + 1}` : more
    const on = switchEntry(owner, name, now !== null, (target, ticked) => {
      const others = (target.accents ?? []).filter((_, k) => k !== n)
      target.accents = ticked ? [...others, firstAccent(target)] : others
      if (target.accents.length === 0) delete target.accents
    })
    if (!now) return [on]
    const its: Owner<LetteringLook, Accent> = {
      ...owner,
      name: `accent ${n + 1}`,
      now,
      at: changed => changed.accents?.[n] ?? null
    }
    const words = { label: 'Words', most: 200, example: 'as they stand in the text' }
    return [
      on,
      wordsEntry(its, now.words, words, (to, entered) => void (to.words = entered)),
      colourEntry(its, 'Their colour', firstOf(now.colour), (to, hex) => void (to.colour = fromColour(to.colour, hex))),
      choiceEntry(its, 'Their face', ['face', faces]),
      numberEntry(its, 'Their size, ×', ['scale', Accent.shape.scale], { step: 0.05 })
    ]
  })
}

const DIRECTIONS: readonly Choice[] = [
  { value: 'auto', label: 'as its letters do' },
  { value: 'ltr', label: 'left to right' },
  { value: 'rtl', label: 'right to left' }
]

/** The way its lines run, which may be left unsaid. */
function directionEntry(look: LetteringLook): FormEntry<LetteringLook> {
  const value = look.direction ?? 'auto'
  const field = { type: 'choice', label: 'Runs', choices: DIRECTIONS, default: value } as const
  return entryOf(lookOwner(look), { field, value }, (now, entered) => {
    if (entered === 'ltr' || entered === 'rtl') now.direction = entered
    else if (entered === 'auto') delete now.direction
  })
}

/** The box that it is set in. */
function boxEntries(look: LetteringLook): FormEntry<LetteringLook>[] {
  const owner = lookOwner(look)
  const { box } = look
  const on = switchEntry(owner, 'Set in a box', box !== undefined, (now, ticked) => {
    if (ticked) now.box = { width: Math.round(8 * now.size), lines: 1, least: 0.6, clip: false }
    else delete now.box
  })
  if (!box) return [on]
  const its: Owner<LetteringLook, LetteringBox> = { ...owner, name: 'box', now: box, at: now => now.box ?? null }
  const { width, lines, least } = LetteringBox.shape
  return [
    on,
    numberEntry(its, 'Box width', ['width', width]),
    numberEntry(its, 'Lines at most', ['lines', lines], { step: 1 }),
    numberEntry(its, 'Shrinks to, ×', ['least', least], {
      step: 0.05,
      help: 'How far it may shrink to fit; 1 for not at all'
    }),
    switchEntry(its, 'Cut off what is too much', box.clip, (now, ticked) => void (now.clip = ticked))
  ]
}

export const lettering = elementKind({
  schema,
  name: 'Lettering',
  help: 'Words in a type face of the scene or of Pour; a column of a table can fill them.',
  begins: {
    from: 'size',
    fresh: ({ height }) => lettered('Palm House', Math.max(1, Math.round((90 * height) / 1080)), { align: 'centre' })
  },
  comes: 'fade',
  moves: ['letters', 'words', 'lines', 'scatter'],
  paint: ({ colour }) => colour,
  words: {
    of: ({ text }) => text,
    set: (look, words) => void (look.text = words.slice(0, MOST.letters)),
    column: ({ field }) => field,
    takeColumn: (look, column) => void (look.field = column)
  },
  goesBy({ onto }, to) {
    if (onto) onto.path = to(onto.path)
  },
  lettered: look => [look, ...(look.accents ?? [])],
  entries(look, offers) {
    const owner = lookOwner(look)
    const { size: height, align, tracking, leading } = schema.shape
    const faces = [...SHIPPED, ...offers.faces]
    return [
      wordsEntry(owner, look.text, { label: 'Text', most: MOST.letters, lines: true }, (now, text) => {
        now.text = text
      }),
      wordsEntry(owner, look.field ?? '', { label: 'Column', most: 60, example: 'of a table' }, (now, words) => {
        now.field = words.trim() || null
      }),
      choiceEntry(owner, 'Face', ['face', faces]),
      numberEntry(owner, 'Size', ['size', height]),
      colourEntry(owner, 'Colour', firstOf(look.colour), (now, hex) => void (now.colour = fromColour(now.colour, hex))),
      choiceEntry(owner, 'Set', ['align', alike(align.options)]),
      numberEntry(owner, 'Tracking', ['tracking', tracking], { step: 10 }),
      numberEntry(owner, 'Leading', ['leading', leading], { step: 0.05 }),
      directionEntry(look),
      ...boxEntries(look),
      ...ontoEntries(look, offers),
      ...accentEntries(look, faces)
    ]
  },
  async lay(look, laying) {
    const { letters, missing, box, told, within } = ontoPath(look, await layLettering(look, laying), laying)
    return {
      box,
      missing,
      told,
      draw(drawing) {
        const { tint } = drawing.moment
        // words whose colour is another than the lettering's keep it
        const seen = tint
          ? letters.map(letter => (letter.colour === look.colour ? { ...letter, colour: tint } : letter))
          : letters
        const layer = inkOfLetters(look.size, seen, drawing)
        if (layer && within && look.box?.clip) cutAtSides(layer, [within[0], box[1], within[1], box[3]], drawing.at)
        return layer
      }
    }
  }
})
