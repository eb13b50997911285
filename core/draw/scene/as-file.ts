/** A scene as the file it would be saved as: workers open it like any other, and its name changes with what it says. */
import { sameJson } from '../../base/canonical'
import type { FileRef } from '../../base/files/file'
import { fingerprint } from '../../frame/kernels/fingerprint'
import { AS_FOUND, type FilesSpec, type SourceFacts } from '../../source/source'
import { sceneFacts } from './format'
import type { Scene } from './scene'

export interface SceneFile {
  file: FileRef
  /** Equal for equal scenes. */
  stamp: string
}

const made = new WeakMap<Scene, SceneFile>()

/** The text of a scene's file. */
export const sceneText = (scene: Scene): string => `${JSON.stringify(scene, null, 2)}\n`

/** A scene on its way to elsewhere: sources that it shows go by their names, since ids are the job's own. */
export const sceneAbroad = (scene: Scene): Scene => ({
  ...scene,
  elements: scene.elements.map(element =>
    element.look.kind === 'clip'
      ? { ...element, look: { ...element.look, source: element.look.title || element.look.source } }
      : element
  )
})

/** The scene as a file in memory, by the name and the bytes it would be saved with. */
export function sceneFile(scene: Scene): SceneFile {
  const known = made.get(scene)
  if (known) return known
  const bytes = new TextEncoder().encode(sceneText(scene))
  const found = {
    file: { kind: 'bytes' as const, path: `${scene.name}.json`, size: bytes.length, bytes },
    // the text says its fields in the order they were set, which is another one once it was stored
    stamp: fingerprint(new TextEncoder().encode(sameJson(scene)))
  }
  made.set(scene, found)
  return found
}

/** What travels to a worker is no view of a store. */
export const plainScene = (scene: Scene): Scene => JSON.parse(JSON.stringify(scene)) as Scene

/** Facts of a scene, known without rendering it. */
export const factsOfScene = (scene: Scene): SourceFacts => sceneFacts(scene, sceneFile(scene).file.size)

/** The scene as workers open it. */
export function sceneSpec(scene: Scene): FilesSpec {
  const { file, stamp } = sceneFile(scene)
  return {
    kind: 'files',
    id: `scene ${stamp}`,
    name: scene.name,
    format: 'scene',
    files: [file],
    numbers: null,
    interpretation: AS_FOUND,
    findings: []
  }
}
