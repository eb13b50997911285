/** `stations DELIVERED`: what each family of programs would show of a file. */
import { mkdir, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { PourError, wrongCall } from '../core/errors'
import { receive, StationAsk } from '../core/stations/reception'
import { screenPng } from '../core/stations/show'
import { stations } from '../core/stations/stations'
import { filesAt } from '../platform/node/disk'
import { text, type Call, type Options } from './call'
import { EXIT } from './exit'

export async function stationVisits(location: string, options: Options, call: Call): Promise<number> {
  const given = Object.fromEntries(
    ['frame', 'backdrop', 'meant'].flatMap(key => (text(options, key) === undefined ? [] : [[key, text(options, key)]]))
  )
  const ask = StationAsk.safeParse(given)
  if (!ask.success) throw wrongCall(`--${ask.error.issues[0]?.path.join('.')}: ${ask.error.issues[0]?.message}`)
  const to = text(options, 'to')
  if (to) await mkdir(to, { recursive: true })
  const files = await filesAt(location)
  const results: object[] = []
  for (const station of stations) {
    try {
      const { visit, meant, frame } = await receive(station.id, files, ask.data, call.host)
      results.push({
        station: station.id,
        name: station.name,
        meant,
        frame,
        standing: visit.standing,
        sentence: visit.sentence,
        error: visit.error
      })
      if (!call.json) call.print(`${station.name} (${visit.standing}): ${visit.sentence}`)
      if (to) await writeFile(path.join(to, `${station.id}.png`), screenPng(call.host, visit))
    } catch (error) {
      // a station that does not open the file is an answer; a file that cannot be read is not
      if (!(error instanceof PourError) || error.kind !== 'impossible') throw error
      results.push({ station: station.id, name: station.name, standing: null, sentence: error.message })
      if (!call.json) call.print(`${station.name}: ${error.message}`)
    }
  }
  if (call.json) call.print(JSON.stringify(results, null, 2))
  return EXIT.done
}
