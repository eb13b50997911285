/** A scene as a source: its description is the file, and each frame is rendered when it is asked for. */
import { unreadable } from '../../base/errors'
import { fewOf } from '../../base/sentences'
import { readAll, type ByteReader, type FileRef } from '../../base/files/file'
import type { OpenedPictures } from '../../media/formats/format'
import { renderedFacts, renderedKind } from '../../media/formats/rendered'
import type { Host } from '../../frame/host'
import type { KnownFinding } from '../../source/finding-kinds'
import type { Finding, SourceFacts } from '../../source/source'
import { inTurn } from '../../source/turns'
import type { ClipSources } from './clips'
import type { LaidFinding } from './elements/kind'
import { SceneRenderer } from './render'
import { addsLight, type Scene } from './scene'
import { sayWritten, writtenScene } from './written'

/** Letters of a description: its pictures lie within it. */
const MOST_BYTES = 64 << 20

/** The data in the text of a scene's file. Throws one clear error where it is no JSON, or a later version's. */
export function sceneData(text: string, file: string): unknown {
  let data: unknown
  try {
    data = JSON.parse(text)
  } catch {
    throw unreadable(file, null, 'this is not a complete JSON file; it was cut short or is damaged')
  }
  const version = (data as { version?: unknown } | null)?.version
  if (typeof version === 'number' && version > 1)
    throw unreadable(
      file,
      'version',
      `it is a scene of version ${version}, made by a later Pour; this one reads version 1`
    )
  return data
}

/** A scene from the text of its file. Throws one clear error that names what is wrong in it, and where. */
export function readScene(text: string, file: string): Scene {
  const data = sceneData(text, file)
  const { scene, faults } = writtenScene(data)
  if (scene) return scene
  const [first, ...more] = faults.map(sayWritten)
  throw unreadable(file, null, [first, ...more.slice(0, MOST_SAID - 1), ...furtherOf(more.length)].join('; '))
}

/** Faults that an error names one by one. */
const MOST_SAID = 3
const furtherOf = (more: number): string[] =>
  more >= MOST_SAID ? [`and ${more - MOST_SAID + 1} more, which “scene FILE --check” lists`] : []

/** What is to be known of a scene before anything is rendered. */
function sceneFindings(scene: Scene): Finding[] {
  const findings: Finding[] = []
  const tell = (id: KnownFinding, sentence: string, severity: Finding['severity']): void =>
    void findings.push({ id, severity, frames: [], sentence })
  const warn = (id: KnownFinding, sentence: string): void => tell(id, sentence, 'warning')
  if (scene.backdrop)
    warn('scene-backdrop', `The scene has a backdrop of ${scene.backdrop}: every pixel of it is solid.`)
  if (addsLight(scene))
    tell(
      'scene-added-light',
      'A glow of the scene adds its light and covers nothing. Premultiplied outlets keep it; straight ones ' +
        'cut it off, unless the step “Glow to alpha” turns it into alpha first.',
      'note'
    )
  if (scene.elements.some(element => element.alone && !element.hidden))
    warn('scene-alone', 'One element is shown alone; the others are not rendered.')
  return findings
}

/** Facts of a scene, known without rendering it; `bytes` are those of its file. */
export function sceneFacts(scene: Scene, bytes: number): SourceFacts {
  const { name, width, height, frames, rate } = scene
  const own = { name, kind: 'scene of Pour', width, height, frames, rate, bytes, findings: sceneFindings(scene) }
  const facts = { ...renderedFacts(own), format: 'scene' as const }
  const says = 'rendered here, premultiplied: it holds light that alpha does not cover'
  return addsLight(scene) ? { ...facts, claim: { mode: 'premultiplied', matte: '#000000', says } } : facts
}

/** Share of what is laid on by a mode that is worth a word. */
const SOME = 0.005

function sayUnheld({ name, blend, share }: { name: string; blend: string; share: number | null }): {
  sentence: string
} {
  if (share === null) {
    const why = 'not all that the scene shows of other sources can be read here'
    const sentence = `“${name}” is laid on by “${blend}”; how much of it alpha holds is not known, since ${why}.`
    return { sentence }
  }
  const percent = share >= 0.995 ? 'all' : `${Math.round(100 * share)} %`
  return {
    sentence:
      `“${name}” is laid on by “${blend}”, and ${percent} of it lies over what is not solid: no alpha holds that for ` +
      'what the delivery is laid over later, where it covers as usual.'
  }
}

/** Sentences that a finding names one by one. */
const MOST_TOLD = 4

/** What is told of several elements, in one sentence after the other. */
const joinedIn = (told: readonly Pick<LaidFinding, 'sentence'>[]): string =>
  fewOf(
    told.map(({ sentence }) => sentence),
    MOST_TOLD
  )

async function sceneIn(reader: ByteReader): Promise<Scene> {
  if (reader.size > MOST_BYTES) throw unreadable(reader.name, null, 'it is too long for the description of a scene')
  return readScene(new TextDecoder().decode(await readAll(reader)), reader.name)
}

/** The description that a file holds. */
export async function sceneInFile(file: FileRef, host: Host): Promise<Scene> {
  const reader = await host.openFile(file)
  return sceneIn(reader).finally(() => reader.close())
}

/** The scene in a file, rendered from it and from the sources that it shows; those stay open. */
export async function openScene(file: FileRef, host: Host, shown: ClipSources = new Map()): Promise<OpenedPictures> {
  const scene = await sceneInFile(file, host)
  const renderer = await SceneRenderer.of(scene, host, shown)
  const facts = sceneFacts(scene, file.size)
  const { missing, told } = renderer
  for (const id of new Set(told.map(each => each.id))) {
    const own = told.filter(each => each.id === id)
    const [{ severity }] = own as [LaidFinding]
    facts.findings.push({ id, severity, frames: [], sentence: joinedIn(own) })
  }
  if (missing.length)
    facts.findings.push({
      id: 'letters-missing',
      severity: 'warning',
      frames: [],
      sentence:
        `The type face has no ${missing.slice(0, 8).join(' ')}; a box stands in ` +
        `${missing.length === 1 ? 'its' : 'their'} place.`
    })
  const unheld = (await renderer.unheld()).filter(({ share }) => share === null || share >= SOME)
  if (unheld.length)
    facts.findings.push({
      id: 'blend-unheld',
      severity: 'warning',
      frames: [],
      sentence: joinedIn(unheld.map(sayUnheld))
    })
  const cut = renderer.cut()
  if (cut.length)
    facts.findings.push({
      id: 'letters-cut',
      severity: 'warning',
      frames: [],
      sentence: `${cut
        .slice(0, 4)
        .map(({ name, share }) => `${Math.round(share * 100)} % of the lettering “${name}”`)
        .join(
          ', '
        )}${cut.length > 4 ? ` and of ${cut.length - 4} more` : ''} never ${cut.length === 1 ? 'lies' : 'lie'} within the picture.`
    })
  const turns = inTurn(scene.name, scene.frames, index => renderer.rendered(index))
  return { facts, ...turns, close: () => turns.settled() }
}

/** The row of the table, but for its name. */
export const sceneKind = renderedKind({
  plural: 'Scenes',
  carries: 'a description from which every frame is rendered',
  proofReader: { name: "Pour's own renderer", independent: false },
  recognise(head) {
    const text = new TextDecoder().decode(head.subarray(0, 400))
    return Promise.resolve(/^\s*\{[\s\S]*?"pour"\s*:\s*"scene"/.test(text) ? 'film' : null)
  },
  async measure(reader) {
    const { width, height } = await sceneIn(reader)
    return { width, height }
  },
  open: (_, file, host) => openScene(file, host)
})
