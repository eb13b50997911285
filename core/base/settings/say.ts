/** Settings in words, for the pages that list them. */
import type { Field } from './field'

/** What a setting may be, in few words. */
export function sayValues(field: Field): string {
  switch (field.type) {
    case 'number':
      return `${field.whole ? 'whole ' : ''}${sayBounds(field)}${field.unit ? ` ${field.unit}` : ''}`
    case 'choice':
      return field.choices.map(({ value }) => `\`${value}\``).join(', ')
    case 'switch':
      return '`true`, `false`'
    case 'colour':
      return 'a colour, `#rrggbb`'
    case 'text':
      return `such as \`${field.example}\``
    case 'words':
      return `words, up to ${field.most} letters`
    case 'source':
      return 'id of another source; on the command line the path of a file'
    case 'rate':
      return 'frames a second: `25`, `23.976`, `24000/1001`'
    case 'box':
      return '`{ "x", "y", "width", "height" }` in pixels, or `null` for the whole'
    case 'shape':
      return 'a list of `{ "frame", "kind", "points" }`: `ellipse`, `rectangle` (two corners) or `polygon`'
  }
}

function sayBounds({ min, max }: { min: number; max: number }): string {
  if (Number.isFinite(max)) return `${min} to ${max}`
  return Number.isFinite(min) ? `from ${min}` : 'any number'
}
