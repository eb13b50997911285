/** `stations DELIVERED`: what each family of programs would show of a file, and whether that is still its source. */
import type { FileRef } from '../core/base/files/file'
import type { Frame } from '../core/frame/frame'
import { PourError, wrongCall } from '../core/base/errors'
import { sayFault } from '../core/base/say-issue'
import { receive, StationAsk } from '../core/run/reception'
import { openSource } from '../core/open/open'
import { screenPng } from '../core/judge/stations/show'
import { stations } from '../core/judge/stations/stations'
import { filesAt } from '../platform/node/disk'
import { folderSink } from '../platform/node/place'
import { placeAsked } from '../platform/node/resolved'
import { refuseWithin } from '../platform/node/same'
import { broughtAs } from './taking'
import { text, type Call, type Options } from './call'
import { EXIT } from './exit'

export async function stationVisits(location: string, options: Options, call: Call): Promise<number> {
  const given = Object.fromEntries(
    ['frame', 'backdrop', 'meant'].flatMap(key => (text(options, key) === undefined ? [] : [[key, text(options, key)]]))
  )
  const ask = StationAsk.safeParse(given)
  if (!ask.success) throw wrongCall(`--${ask.error.issues[0]!.path.join('.')}: ${sayFault(ask.error.issues[0]!)}`)
  const asked = text(options, 'to')
  const to = asked && (await placeAsked(asked))
  const madeFrom = text(options, 'source')
  const files = await filesAt(location)
  if (to) {
    const read = [...files, ...(madeFrom ? await filesAt(madeFrom) : [])]
    const places = read.flatMap(file => (file.kind === 'disk' ? [file.location] : []))
    const names = new Set<string>(stations.map(({ id }) => `${id}.png`))
    await refuseWithin([location, ...(madeFrom ? [madeFrom] : []), ...places], to, name =>
      names.has(name.toLowerCase())
    )
  }
  const source = madeFrom === undefined ? null : await sourceFrame(madeFrom, ask.data.frame, options, call)
  const sink = to ? await folderSink(to, { replace: options.replace === true }) : null
  try {
    const results = await visits({ files, ask: ask.data, source }, call, async (id, png) => sink?.add(`${id}.png`, png))
    await sink?.close()
    if (call.json) call.print(JSON.stringify(results, null, 2))
    return EXIT.done
  } catch (error) {
    await sink?.abort()
    throw error
  }
}

/** One frame of what a file was made from, in the mode given or the one that its pixels show. */
async function sourceFrame(location: string, frame: number, options: Options, call: Call): Promise<Frame> {
  const { spec, facts } = await broughtAs(location, 'source-alpha', options, call)
  if (frame > facts.frames) throw wrongCall(`frame ${frame} is asked for, and ${facts.name} has ${facts.frames}`)
  const opened = await openSource(spec, call.host)
  try {
    return await opened.frame(frame - 1)
  } finally {
    await opened.close()
  }
}

/** What every station answers; `keep` is handed the pictures. */
async function visits(
  { files, ask, source }: { files: readonly FileRef[]; ask: StationAsk; source: Frame | null },
  call: Call,
  keep: (id: string, png: Uint8Array) => Promise<unknown>
): Promise<object[]> {
  const results: object[] = []
  for (const station of stations) {
    call.signal.throwIfAborted()
    try {
      const { visit, meant, frame } = await receive(station.id, files, ask, call.host, { source })
      results.push({
        station: station.id,
        name: station.name,
        meant,
        frame,
        standing: visit.standing,
        sentence: visit.sentence,
        error: visit.error,
        ...(source ? { source: visit.source } : {})
      })
      if (!call.json) call.print(`${station.name} (${visit.standing}): ${visit.sentence}`)
      await keep(station.id, screenPng(call.host, visit))
    } catch (error) {
      // a station that does not open the file is an answer; a file that cannot be read is not
      if (!(error instanceof PourError) || error.kind !== 'impossible') throw error
      results.push({ station: station.id, name: station.name, standing: null, sentence: error.message })
      if (!call.json) call.print(`${station.name}: ${error.message}`)
    }
  }
  return results
}
