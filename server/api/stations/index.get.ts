/** GET /api/stations: the stations a file can be sent to. */
import { defineEventHandler } from 'h3'
import { stations } from '../../../core/judge/stations/stations'

export default defineEventHandler(() =>
  stations.filter(s => s.kind === 'picture').map(({ id, name, family, explains }) => ({ id, name, family, explains }))
)
