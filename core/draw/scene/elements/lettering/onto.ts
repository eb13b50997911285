/** Lettering on a path: each letter stands on the line, turned along it. */
import { combined, lengthOf, placed, placing, spotOn } from '../../../raster/line'
import { length } from '../../values'
import { besideEntry, numberEntry, type FormEntry, type Owner } from '../entry'
import type { LaidFinding, Laying, Offers } from '../kind'
import { lookOwner } from '../owner'
import { boxOfLines } from '../stroked'
import type { LetteringLook } from './look'
import type { LaidGlyphs, Letter } from './outlines'

/** The middle of a letter, across. */
function middleOf({ outlines, x }: Letter): number {
  const [left, , right] = boxOfLines(outlines, null)
  return left <= right ? (left + right) / 2 : x
}

/** Laid lettering on the path that it names; as it is, and told, where there is none. */
export function ontoPath(look: LetteringLook, laid: LaidGlyphs, { name, path }: Laying): LaidGlyphs {
  const { onto, align } = look
  if (!onto) return laid
  const line = path(onto.path)
  if (!line) {
    const sentence = `“${name}” is to stand on a path that does not lie beside it, and stands on a straight line.`
    return { ...laid, told: [...laid.told, { id: 'onto-nothing', severity: 'warning', sentence }] }
  }
  const whole = lengthOf(line)
  const begins = onto.begins + { left: 0, centre: whole / 2, right: whole }[align]
  const spot = spotOn(line)
  let [least, most] = [Infinity, -Infinity]
  const letters = laid.letters.map(letter => {
    const middle = middleOf(letter)
    const far = begins + middle
    least = Math.min(least, far)
    most = Math.max(most, far)
    const { x, y, turned } = spot(far)
    const at = combined(placing(x, y, 1, turned), { a: 1, b: 0, c: 0, d: 1, e: -middle, f: 0 })
    const stands = placed(Float64Array.from([letter.x, letter.y]), at)
    const outlines = letter.outlines.map(outline => placed(outline, at))
    return { ...letter, outlines, x: stands[0]!, y: stands[1]! }
  })
  const box = letters.length
    ? boxOfLines(
        letters.flatMap(({ outlines }) => outlines),
        null
      )
    : laid.box
  const beyond = least < 0 || most > whole
  const sentence = `The path of “${name}” is shorter than its letters: what is beyond its ends goes straight on.`
  const short: LaidFinding = { id: 'onto-short', severity: 'warning', sentence }
  const told = beyond ? [...laid.told, short] : laid.told
  return { ...laid, letters, box, within: null, told }
}

/** The path that it stands on. */
export function ontoEntries(look: LetteringLook, { paths }: Offers): FormEntry<LetteringLook>[] {
  const { onto } = look
  const owner = lookOwner(look)
  const by = besideEntry(owner, { label: 'Stands on', none: 'a straight line' }, [onto?.path, paths], (now, id) => {
    if (id === null) delete now.onto
    else now.onto = { begins: 0, ...now.onto, path: id }
  })
  if (!onto) return by
  const its: Owner<LetteringLook, NonNullable<LetteringLook['onto']>> = {
    ...{ ...owner, name: 'onto', now: onto },
    at: now => now.onto ?? null
  }
  return [...by, numberEntry(its, 'On along it by', ['begins', length])]
}
