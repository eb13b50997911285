/** `scene FILE`: renders a scene, or one for each row of a table. */
import path from 'node:path'
import { sentenceOf, unreadable, wrongCall } from '../core/base/errors'
import { fewOf } from '../core/base/sentences'
import { formatById } from '../core/open/registry'
import { Names, safeName } from '../core/job/outlet/names'
import { lookingAt } from '../core/run/intake/intake'
import { sceneSpec } from '../core/draw/scene/as-file'
import { clipsOf } from '../core/draw/scene/clips'
import { filledFrom, picturesAsked, readTable, type CarriedPicture, type Table } from '../core/draw/scene/tables'
import { parseRate } from '../core/base/rate'
import { readScene, sceneData } from '../core/draw/scene/format'
import { carriedFrom } from '../core/judge/view/carried-frame'
import { relaid } from '../core/draw/scene/relaid'
import type { Scene } from '../core/draw/scene/scene'
import { sayWritten, writtenScene } from '../core/draw/scene/written'
import type { SourceSpec } from '../core/source/source'
import { placeAsked } from '../platform/node/resolved'
import { bringOne, decided, tellFindings } from './bring-in'
import { withMode } from './taking'
import { pourBrought } from './convert'
import { textAt } from './text-at'
import { EVERYWHERE, needed, text, type Call, type Options } from './call'
import { EXIT, exitFor } from './exit'

/** The scene in the size that was asked for. */
function sized(scene: Scene, size: string | undefined): Scene {
  if (size === undefined) return scene
  const [, width, height] = /^(\d+)x(\d+)$/.exec(size) ?? []
  if (!width || !height || Number(width) < 1 || Number(height) < 1 || Number(width) > 8192 || Number(height) > 8192)
    throw wrongCall(`--size takes a width and a height as 1920x1080, not "${size}"`)
  return relaid(scene, Number(width), Number(height))
}

/** The scene rendered at another rate: as long as it is, in more or fewer frames. */
function played(scene: Scene, said: string | undefined): Scene {
  if (said === undefined) return scene
  const rate = parseRate(said)
  if (!rate) throw wrongCall(`--rate takes frames per second as N, N/D or a decimal, not "${said}"`)
  const [n, d] = scene.rate
  return { ...scene, rate, frames: Math.max(1, Math.round((scene.frames * rate[0] * d) / (rate[1] * n))) }
}

/** The sources that a scene shows, by their paths from where it lies. */
async function shownFrom(
  location: string,
  scene: Scene,
  { options, call }: { options: Options; call: Call }
): Promise<Record<string, SourceSpec>> {
  const others: Record<string, SourceSpec> = {}
  for (const { source } of clipsOf(scene)) {
    if (others[source]) continue
    const place = path.resolve(path.dirname(location), source)
    const brought = await bringOne(place, call)
      .then(found => decided(found, options, call))
      .catch((error: unknown) => {
        throw unreadable(location, `the source "${source}"`, sentenceOf(error))
      })
    tellFindings(brought, call)
    others[source] = (await withMode(brought, null, call)).spec
  }
  return others
}

/** Sentences that a refusal names one by one. */
const MOST_SAID = 6

/** Pictures that a table's rows ask for, by their paths from where it lies; one that cannot be read is not there. */
async function picturesFor(scene: Scene, table: Table, call: Call): Promise<Map<string, CarriedPicture>> {
  const pictures = new Map<string, CarriedPicture>()
  for (const name of picturesAsked(scene, table)) {
    const place = path.resolve(path.dirname(table.file), name)
    try {
      const { picture, said } = await carriedFrom(await bringOne(place, call), call.pool)
      pictures.set(name, picture)
      for (const each of said) call.remark(each)
    } catch (error) {
      call.remark(sentenceOf(error))
    }
  }
  return pictures
}

/** `scene FILE --check`: all that is wrong with a scene's file, or what is to be known of the scene. */
async function checkScene(location: string, options: Options, call: Call): Promise<number> {
  const other = Object.keys(options).find(name => name !== 'check' && !EVERYWHERE.includes(name))
  if (other !== undefined) throw wrongCall(`--check only looks: --${other} does not go with it`)
  const { scene, faults } = writtenScene(sceneData(await textAt(location), location))
  const findings = scene ? (await lookingAt(call.host).describe(sceneSpec(scene))).findings : []
  if (call.json) call.print(JSON.stringify({ faults, findings }, null, 2))
  else {
    for (const fault of faults) call.print(sayWritten(fault))
    for (const { sentence } of findings) call.print(sentence)
    if (scene) {
      const { width, height, frames, elements } = scene
      call.print(`Nothing in the file is wrong: ${width}x${height}, frames: ${frames}, elements: ${elements.length}.`)
    }
  }
  return scene ? EXIT.done : EXIT.unreadable
}

export async function renderScene(location: string, options: Options, call: Call): Promise<number> {
  if (options.check === true) return checkScene(location, options, call)
  const to = await placeAsked(needed(options, 'to'))
  const format = formatById(needed(options, 'format'))
  const scene = played(sized(readScene(await textAt(location), location), text(options, 'size')), text(options, 'rate'))
  const table = text(options, 'fields')
  if (options.partly === true && table === undefined) throw wrongCall('--partly goes with --fields')
  const names = text(options, 'names')
  if (names !== undefined && table === undefined) throw wrongCall('--names goes with --fields')
  const shows = await shownFrom(location, scene, { options, call })
  const pour = async (each: Scene, place: string): Promise<number> => {
    const spec = sceneSpec(each)
    // its size and rate have been taken already
    const { size: _size, rate: _rate, ...rest } = options
    const facts = await lookingAt(call.host).describe(spec)
    // one row of many is named in what is said of it
    const remark = (said: string): void => call.remark(table === undefined ? said : `${each.name}: ${said}`)
    return pourBrought({ brought: { spec, facts, shows }, to: place }, rest, { ...call, remark })
  }
  if (table === undefined) return pour(scene, to)
  const read = readTable(await textAt(table), table)
  const { rows, apart } = filledFrom(scene, read, { names, pictures: await picturesFor(scene, read, call) })
  for (const row of rows) apart.push(...row.wrong.map(wrong => `${row.scene.name}: ${wrong}`))
  if (apart.length && options.partly !== true)
    throw wrongCall(`${fewOf(apart, MOST_SAID)} Nothing is poured; --partly pours it so`)
  for (const each of apart) call.remark(each)
  const taken = new Names()
  let worst: number = EXIT.done
  for (const { scene: row } of rows) {
    const name = taken.free(safeName(row.name))
    const place = path.join(to, format.delivers === 'film' ? `${name}.${format.extension}` : name)
    try {
      worst = Math.max(worst, await pour(row, place))
    } catch (error) {
      // one row that cannot be poured does not hold up the others
      if (call.signal.aborted) throw error
      call.remark(`${row.name}: ${sentenceOf(error)}`)
      worst = Math.max(worst, exitFor(error))
    }
  }
  return worst
}
