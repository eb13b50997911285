/** Gathers a hand-over: reads every delivery, takes it to the stations, writes the papers, and says what lies where. */
import type { FileRef } from '../../base/files/file'
import { baseName } from '../../base/files/file'
import { formatById } from '../../open/registry'
import type { AlphaMode } from '../../frame/frame'
import type { Host } from '../../frame/host'
import { Names } from '../../job/outlet/names'
import type { ProofReport } from '../../judge/proof/report'
import type { SourceFacts, FilesSpec } from '../../source/source'
import { flatScene } from '../../judge/stations/scene'
import { screenPng } from '../../judge/stations/show'
import { stations } from '../../judge/stations/stations'
import type { Visit } from '../../judge/stations/visit'
import { thumbnail } from '../../judge/view/thumb'
import type { Workshop } from '../../frame/workshop'
import type { HandoverTasks } from './asks'
import type { DocumentPicture } from './document'
import { MANIFEST_VERSION, type Manifest } from './manifest'
import type { StationWord, Told } from './note'
import { describe, papers, type Packed } from './pack'
import type { HouseKey } from './seal'

/** A proven delivery that is handed over. */
export interface HandedOver {
  /** Name of its file, or of the archive its pictures are kept in. */
  name: string
  /** Name of the source it was poured from. */
  source: string
  spec: FilesSpec
  facts: SourceFacts
  report: ProofReport
  /** The mode its sender means it to have. */
  due: AlphaMode
  /** Demands of the receiver that it does not meet, and that were waived, in sentences. */
  waived?: readonly string[]
}

/** One file of a hand-over, by its place in it. */
export interface HandoverFile {
  name: string
  content: FileRef | Uint8Array
}

export interface Gathering {
  deliveries: readonly HandedOver[]
  job: string
  made: Date
  /**
   * False leaves the manifest without the fingerprints of frames, for a paper by itself: no frame is then read for
   * them.
   */
  whole: boolean
  /** The house's key that signs it; unsigned without. */
  key?: HouseKey | null
}

const BACKDROP = '#4a7ba6'
/** Longer side of a picture in the papers, in pixels. */
const SHOWN = 460
/** Stations whose wrong picture teaches most. */
const TAUGHT = ['always-straight', 'always-premultiplied', 'alpha-off', 'engine-straight']

function pictureOf(visit: Visit, caption: string, host: Host): DocumentPicture {
  const small = thumbnail(visit, SHOWN)
  return { png: screenPng(host, small), width: small.width, height: small.height, caption }
}

/** How the stations take a delivery, at its worst frame or the middle, with the pictures that teach most. */
async function visited(
  { spec, facts, report, due }: HandedOver,
  { host, pool, signal }: Workshop<HandoverTasks>
): Promise<Pick<Told, 'stations' | 'pictures'>> {
  const index = (report.worstFrame ?? Math.ceil(facts.frames / 2)) - 1
  const words: StationWord[] = []
  const pictures: DocumentPicture[] = []
  for (const station of stations) {
    if (station.kind !== 'picture' || station.refuses({ facts, due })) continue
    const visit = await pool.run(
      'station',
      [{ station: station.id, delivered: spec, index, due, scene: flatScene(BACKDROP) }],
      { signal }
    )
    words.push({ station, standing: visit.standing, sentence: visit.sentence })
    if (station.id === 'asks') pictures.unshift(pictureOf(visit, `Right: frame ${index + 1} over ${BACKDROP}.`, host))
    else if (TAUGHT.includes(station.id) && visit.standing !== 'right')
      pictures.push(pictureOf(visit, `Wrong, in ${station.family}. ${visit.seen ?? visit.sentence}`, host))
  }
  return { stations: words, pictures: due.mode === 'none' ? [] : pictures }
}

/**
 * Gives the files of a delivery their places: a film lies at the top, pictures in a folder of their own. No place is
 * given twice.
 */
function placed(delivered: HandedOver, taken: Names): Packed {
  const { spec, name } = delivered
  const all = [...spec.files, ...(spec.key ?? [])]
  const stem = name.replace(/\.[^.]*$/, '')
  const folder = formatById(spec.format).delivers === 'film' ? '' : `${taken.free(stem)}/`
  const within = folder ? new Names() : taken
  const paths = all.map(file => folder + within.free(baseName(file.path)))
  return { ...delivered, paths }
}

/**
 * Everything that lies in the hand-over, papers first. Files are only named: whoever writes it reads them one by one.
 */
export async function gather(
  { deliveries, job, made, whole, key = null }: Gathering,
  workshop: Workshop<HandoverTasks>,
  onProgress: (what: string, done: number, total: number) => void = () => undefined
): Promise<HandoverFile[]> {
  const { pool, signal } = workshop
  const taken = new Names()
  const total = deliveries.reduce((sum, { facts }) => sum + facts.frames, 0)
  const told: Told[] = []
  const files: HandoverFile[] = []
  let done = 0
  for (const delivered of deliveries) {
    signal?.throwIfAborted()
    const what = `Reading ${delivered.name}`
    onProgress(what, done, total)
    const packed = placed(delivered, taken)
    const delivery = await describe(packed, { pool, signal, whole, onFrame: () => onProgress(what, ++done, total) })
    told.push({ delivery, report: packed.report, ...(await visited(delivered, workshop)) })
    for (const [i, content] of [...packed.spec.files, ...(packed.spec.key ?? [])].entries())
      files.push({ name: packed.paths[i]!, content })
  }
  const manifest: Omit<Manifest, 'papers'> = {
    pour: 'hand-over',
    version: MANIFEST_VERSION,
    job,
    made: made.toISOString(),
    deliveries: told.map(t => t.delivery)
  }
  return [...(await papers(manifest, told, key)).map(({ name, bytes }) => ({ name, content: bytes })), ...files]
}

/** The bytes of an entry. */
export async function bytesOfEntry({ content }: HandoverFile, host: Host): Promise<Uint8Array> {
  if (content instanceof Uint8Array) return content
  const reader = await host.openFile(content)
  const bytes = await reader.read(0, content.size)
  await reader.close()
  return bytes
}
