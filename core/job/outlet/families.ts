/** The formats in the groups that people look for them in, and found by words. */
import { FAMILIES, familyOf } from '../../media/formats/families'
import type { Format } from '../../media/formats/format'
import { writtenFormats } from '../../open/registry'
import { DESTINATIONS } from './destinations'
import { takes } from './guide'

/** All that a search is held against: names, what the format is for, and where it goes. */
function wordsOf(format: Format): string {
  const { id, name, tag, lossless, delivers } = format
  const goes = DESTINATIONS.filter(destination => takes(destination, format)).map(destination => destination.name)
  const kind = [lossless ? 'exact lossless' : 'lossy', { film: 'film', pictures: 'sequence pictures', folder: 'folder of files' }[delivers]]
  const depths = format.depths.map(({ alphaBits, colourBits }) => `${colourBits} bit ${alphaBits} bit`)
  return [id, name, tag, familyOf(format).name, ...goes, ...kind, ...depths].join(' ').toLowerCase()
}

/**
 * Formats that every word of a search is found in, by family, as many families as have any; all for an empty search.
 */
export function familiesWith(search: string): { name: string; formats: Format[] }[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const found = writtenFormats.filter(format => words.every(word => wordsOf(format).includes(word)))
  return FAMILIES.map(family => ({
    name: family.name,
    formats: found.filter(format => familyOf(format) === family)
  })).filter(({ formats }) => formats.length > 0)
}
