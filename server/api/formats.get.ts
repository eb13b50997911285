/** GET /api/formats: ids and names of the formats, for programs that look before they ask. */
import { defineEventHandler } from 'h3'
import { formats } from '../../core/open/registry'

export default defineEventHandler(() =>
  formats.map(({ id, name, tag, extension, delivers, lossless }) => ({ id, name, tag, extension, delivers, lossless }))
)
