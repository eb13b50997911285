/** Every row of the format table, in the order they are asked in; what ids there are follows from it. */
import type { Format } from '../media/formats/format'
import { films } from '../media/formats/films'
import { opaqueFilm } from '../media/formats/opaque-film'
import { pictures } from './pictures'

export const rows = [...films, ...pictures, opaqueFilm]

export type FormatId = (typeof rows)[number]['id']

/** A row of this table. */
export type Listed = Format<FormatId>
