/** A scene as a source: its description is the file, and each frame is rendered when it is asked for. */
import { impossible, unreadable } from '../errors'
import { readAll, type ByteReader, type FileRef } from '../files/file'
import type { PictureKind, OpenedPictures } from '../formats/format'
import type { Host } from '../host'
import { sayIssue } from '../say-issue'
import type { Finding } from '../source/source'
import { inTurn } from '../source/turns'
import { SceneRenderer } from './render'
import { Scene } from './scene'
import { closes } from './timing'

/** Letters of a description: its pictures lie within it. */
const MOST_BYTES = 64 << 20

/** A scene from the text of its file. Throws one clear error that names the place where it is wrong. */
export function readScene(text: string, file: string): Scene {
  let data: unknown
  try {
    data = JSON.parse(text)
  } catch {
    throw unreadable(file, null, 'this is not a whole JSON file; it was cut short or is damaged')
  }
  const version = (data as { version?: unknown } | null)?.version
  if (typeof version === 'number' && version > 1)
    throw unreadable(
      file,
      'version',
      `it is a scene of version ${version}, made by a later Pour; this one reads version 1`
    )
  const read = Scene.safeParse(data)
  if (read.success) return read.data
  const [issue] = read.error.issues
  throw unreadable(file, issue!.path.join(' ') || null, sayIssue(issue!))
}

/** What is to be known of a scene before anything is rendered. */
export function sceneFindings(scene: Scene): Finding[] {
  const findings: Finding[] = []
  const note = (id: string, severity: Finding['severity'], sentence: string): void =>
    void findings.push({ id, severity, frames: [], sentence })
  if (scene.backdrop)
    note('scene-backdrop', 'warning', `The scene has a backdrop of ${scene.backdrop}: every pixel of it is solid.`)
  if (scene.elements.some(element => element.alone))
    note('scene-alone', 'warning', 'One element is shown alone; the others are not rendered.')
  if (closes(scene) && scene.frames > 1)
    note('scene-closes', 'note', 'It ends as it begins: the frame after the last would be the first.')
  return findings
}

/** Facts of a scene, known without rendering it. */
export function sceneFacts(scene: Scene, bytes: number): OpenedPictures['facts'] {
  return {
    name: scene.name,
    kind: 'scene of Pour',
    width: scene.width,
    height: scene.height,
    frames: scene.frames,
    rate: scene.rate,
    rateFrom: 'file',
    bitDepth: 16,
    claim: { mode: 'straight', matte: null, says: 'rendered here, with straight alpha' },
    colour: 'sRGB',
    pixelAspect: [1, 1],
    plays: null,
    bytes,
    findings: sceneFindings(scene)
  }
}

async function sceneIn(reader: ByteReader): Promise<Scene> {
  if (reader.size > MOST_BYTES) throw unreadable(reader.name, null, 'it is too long for the description of a scene')
  return readScene(new TextDecoder().decode(await readAll(reader)), reader.name)
}

async function open(_: string, [file]: readonly FileRef[], host: Host): Promise<OpenedPictures> {
  const reader = await host.openFile(file!)
  const scene = await sceneIn(reader).finally(() => reader.close())
  const renderer = await SceneRenderer.of(scene, host)
  const facts = sceneFacts(scene, file!.size)
  if (renderer.missing.length)
    facts.findings.push({
      id: 'letters-missing',
      severity: 'warning',
      frames: [],
      sentence: `The type face has no ${renderer.missing.slice(0, 8).join(' ')}; a box stands in ${renderer.missing.length === 1 ? 'its' : 'their'} place.`
    })
  const turns = inTurn(reader.name, scene.frames, index => Promise.resolve(renderer.frame(index)))
  return { facts, ...turns, close: () => turns.settled() }
}

const notWritten = (): Error => impossible('scenes are rendered, not written by an outlet')

/** The row of the table, but for its name. */
export const sceneKind: PictureKind = {
  extension: 'json',
  mime: 'application/json',
  delivers: 'film',
  carries: 'a description from which every frame is rendered',
  lossless: true,
  exactAlpha: true,
  depths: [{ depth: 16, colourBits: 16, alphaBits: 16 }],
  alpha: {
    straight: { can: false, because: 'Scenes are rendered, not written.' },
    premultiplied: { can: false, because: 'Scenes are rendered, not written.' },
    none: { can: false, because: 'Scenes are rendered, not written.' }
  },
  declaredMattes: [],
  limits: { width: 8192, height: 8192, rate: 'any fraction' },
  options: {},
  proofReader: { name: "Pour's own renderer", independent: false },
  refusesRate: () => null,
  recognise(head) {
    const text = new TextDecoder().decode(head.subarray(0, 400))
    return Promise.resolve(/^\s*\{[\s\S]*?"pour"\s*:\s*"scene"/.test(text) ? 'film' : null)
  },
  async measure(reader) {
    const { width, height } = await sceneIn(reader)
    return { width, height }
  },
  open,
  openForProof: open,
  encode: () => Promise.reject(notWritten()),
  assemble: () => Promise.reject(notWritten()),
  wrappedSize: encoded => encoded
}
