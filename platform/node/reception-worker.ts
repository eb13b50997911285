/**
 * A process of the service's own that takes one file at a time to a station. It may be killed at any moment: whoever
 * asked for it holds the clock.
 */
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import { PourError, sentenceOf, type PlainError } from '../../core/base/errors'
import { receive, type StationAsk } from '../../core/run/reception'
import { screenPng } from '../../core/judge/stations/show'
import { nodeHost } from './host'

export interface ReceptionRequest {
  station: string
  /** Where the file lies, and its size. */
  location: string
  size: number
  ask: StationAsk
  mostPixels: number
}

export type ReceptionAnswer =
  { ok: true; answer: object; standing: string; png: string } | { ok: false; error: PlainError | { message: string } }

const host = nodeHost(path.join(path.dirname(fileURLToPath(import.meta.url)), 'kernels.wasm'))

async function answer({ station: id, location, size, ask, mostPixels }: ReceptionRequest): Promise<ReceptionAnswer> {
  try {
    const ready = await host
    const files = [{ kind: 'disk', path: 'delivered', size, location }] as const
    const { station, facts, meant, frame, visit } = await receive(id, files, ask, ready, { mostPixels })
    const { kind, width, height, frames, rate, claim } = facts
    return {
      ok: true,
      standing: visit.standing,
      png: Buffer.from(screenPng(ready, visit)).toString('base64'),
      answer: {
        station: { id: station.id, name: station.name, family: station.family },
        file: { kind, width, height, frames, rate, says: claim },
        meant,
        frame,
        standing: visit.standing,
        sentence: visit.sentence,
        error: visit.error
      }
    }
  } catch (error) {
    return { ok: false, error: error instanceof PourError ? error.toPlain() : { message: sentenceOf(error) } }
  }
}

process.on('message', (request: ReceptionRequest) => void answer(request).then(answered => process.send?.(answered)))
// the service is gone: so is the reason to be
process.on('disconnect', () => process.exit(0))
