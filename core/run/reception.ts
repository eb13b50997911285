/** A file from anywhere at a station: nothing is known but its bytes and what was asked. */
import { z } from 'zod'
import { HexColour } from '../base/colour'
import { impossible, PourError, unreadable, wrongCall } from '../base/errors'
import { examine } from '../judge/examine/examination'
import type { FrameLook } from '../judge/examine/tally'
import { lookAt } from '../judge/examine/look'
import { modeAdvised } from '../judge/examine/mode'
import type { FileRef } from '../base/files/file'
import { MAX_PIXELS, type AlphaMode, type Frame } from '../frame/frame'
import { coded } from '../frame/transfer'
import type { Host } from '../frame/host'
import { takeIn } from './intake/intake'
import { openSource } from '../open/open'
import type { Source, SourceFacts } from '../source/source'
import { Filter, StandIn, type StationScene } from '../judge/stations/scene'
import { stationById } from '../judge/stations/stations'
import type { Station } from '../judge/stations/station'
import { visit, type Visit } from '../judge/stations/visit'

const number = (min: number, max: number, otherwise: number): z.ZodDefault<z.ZodCoercedNumber> =>
  z.coerce.number().min(min).max(max).default(otherwise)

/** What can be asked, as it stands in an address: every value a word. */
export const StationAsk = z.strictObject({
  /** Counted from 1. */
  frame: z.coerce.number().int().min(1).default(1),
  /** A colour, or "view" for the glasshouse. */
  backdrop: z.union([HexColour, z.literal('view')]).default('#4a7ba6'),
  x: number(-2, 2, 0),
  y: number(-2, 2, 0),
  scale: number(0.02, 8, 1),
  turn: number(-360, 360, 0),
  standIn: StandIn.default('none'),
  filter: Filter.default('smooth'),
  /**
   * How the sender means the file: straight, none, premultiplied or premultiplied:#rrggbb. Without it, what its pixels
   * advise.
   */
  meant: z
    .string()
    .regex(/^(straight|none|premultiplied(:#[0-9a-f]{6})?)$/)
    .optional()
})
export type StationAsk = z.infer<typeof StationAsk>

export interface Received {
  station: Station
  facts: SourceFacts
  meant: AlphaMode
  frame: number
  visit: Visit
}

/** Frames looked at to find out how a file is meant. */
const LOOKED_AT = 8

async function advised(source: Source, host: Host): Promise<AlphaMode> {
  const { facts } = source
  const count = Math.min(LOOKED_AT, facts.frames)
  const seen: FrameLook[] = []
  for (let n = 0; n < count; n++) {
    const i = Math.floor((n * facts.frames) / count)
    seen.push({ frame: i + 1, look: lookAt(coded(await source.frame(i), host.kernels), host.kernels) })
  }
  return modeAdvised(examine(seen, facts).alpha, facts.claim)
}

function meantBy(text: string): AlphaMode {
  const [mode, matte] = text.split(':')
  return mode === 'premultiplied' ? { mode, matte: matte ?? '#000000' } : { mode: mode as 'straight' | 'none' }
}

/**
 * Takes the files in as the station would; of several sources, the one with the most frames. Rejects with a clear error
 * when the station is not known, cannot open the file, or the file is not one. `mostPixels` refuses large frames before
 * memory is taken; `source`, the frame of what the file was made from, is held against what the file shows.
 */
export async function receive(
  id: string,
  files: readonly FileRef[],
  ask: StationAsk,
  host: Host,
  { mostPixels = MAX_PIXELS, source = null }: { mostPixels?: number; source?: Frame | null } = {}
): Promise<Received> {
  const station = stationById(id)
  if (!station) throw wrongCall(`there is no station called ${id}`)
  const intake = await takeIn(files, host)
  const [found] = [...intake.found].sort((a, b) => b.facts.frames - a.facts.frames)
  // a finding names its file already
  const [said] = intake.findings
  if (!found)
    throw said
      ? new PourError({ kind: 'unreadable', file: null, place: null, matter: said.sentence })
      : unreadable(files[0]?.path ?? 'the file', null, 'there is nothing that Pour reads')
  const { facts } = found
  if (facts.width * facts.height > mostPixels)
    throw impossible(`${facts.width}x${facts.height} is more than the ${mostPixels} pixels a station takes`, facts.name)
  if (ask.frame > facts.frames)
    throw wrongCall(`frame ${ask.frame} is asked for, and ${facts.name} has ${facts.frames}`)
  const file = await openSource({ ...found.spec, id: 'received' }, host)
  try {
    const meant = ask.meant ? meantBy(ask.meant) : await advised(file, host)
    const guest = { facts, due: meant }
    const refused = station.refuses(guest)
    if (refused) throw impossible(`${station.name} does not open it. ${refused}`, facts.name)
    if (station.kind === 'browser')
      throw impossible(`${station.name} is a real browser, and is asked in the page`, facts.name)
    const scene: StationScene = {
      backdrop: ask.backdrop === 'view' ? { kind: 'view', at: 0 } : { kind: 'colour', colour: ask.backdrop },
      place: { x: ask.x, y: ask.y, scale: ask.scale, turn: ask.turn },
      standIn: ask.standIn,
      filter: ask.filter
    }
    return {
      station,
      facts,
      meant,
      frame: ask.frame,
      visit: await visit(
        { station, facts, due: meant, index: ask.frame - 1, scene, frame: i => file.frame(i), source },
        host.kernels
      )
    }
  } finally {
    await file.close()
  }
}
