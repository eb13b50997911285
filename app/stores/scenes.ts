/** Scenes of the job: sources whose files are made of what the job itself says. */
import { current } from 'immer'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import type { Given } from '~/db/files'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useWorkshop } from '~/stores/workshop'
import { sentenceOf } from '~~/core/base/errors'
import { emptyScene, newElement, type SceneSize } from '~~/core/draw/scene/fresh'
import { lettered } from '~~/core/draw/scene/elements/lettering'
import type { JobSource } from '~~/core/job/job'
import { factsOfScene, sceneFile } from '~~/core/draw/scene/as-file'
import { ownFace } from '~~/core/draw/scene/own-faces'
import type { Scene } from '~~/core/draw/scene/scene'
import { AS_FOUND } from '~~/core/source/source'

/** What a word is lettered in, to try a type face. */
const TRIAL = { width: 64, height: 36, rate: [25, 1], seconds: 1 } as const satisfies SceneSize

export const useScenes = defineStore('scenes', () => {
  const jobs = useJob()
  const desk = useDesk()
  const workshop = useWorkshop()
  /** Sources that are scenes; spans of them are edited through these. */
  const scenes = computed(() => jobs.sources.filter(source => source.scene && !source.span))

  const sourceOf = (id: string, scene: Scene): JobSource => ({
    id,
    name: scene.name,
    facts: factsOfScene(scene),
    findings: [],
    interpretation: { ...AS_FOUND },
    marks: null,
    steps: [],
    scene
  })

  /** Adds scenes as sources of the job, and gives their ids. */
  async function add(given: readonly Scene[], label: string): Promise<string[]> {
    const added = given.map(scene => sourceOf(crypto.randomUUID(), scene))
    await jobs.edit(label, draft => {
      for (const source of added) {
        draft.sources[source.id] = source
        draft.sourceOrder.push(source.id)
      }
    })
    return added.map(({ id }) => id)
  }

  /** Changes a scene, and with it the spans that were kept of it. */
  async function edit(id: string, label: string, change: (scene: Scene) => void): Promise<void> {
    await jobs.edit(label, draft => {
      const source = draft.sources[id]
      if (!source?.scene) return
      const stampOf = (of: Scene): string => sceneFile(current(of)).stamp
      const before = stampOf(source.scene)
      const same = Object.values(draft.sources).filter(
        other => other === source || (other.span && other.scene && stampOf(other.scene) === before)
      )
      change(source.scene)
      const scene = current(source.scene)
      source.name = scene.name
      for (const each of same) Object.assign(each, { scene, facts: factsOfScene(scene) })
    })
  }

  /** The scene that is being worked on. */
  const opened = ref<string | null>(null)

  /** Takes font files into a scene once each of them has lettered a word; what cannot is said, and none is taken. */
  async function takeFaces(id: string, files: readonly Pick<Given, 'path' | 'file'>[]): Promise<void> {
    const scene = jobs.job?.sources[id]?.scene
    if (!scene) return
    try {
      const faces = [...(scene.faces ?? [])]
      const held = faces.length
      for (const { path, file } of files) {
        const face = ownFace({ faces }, path, new Uint8Array(await file.arrayBuffer()))
        const trial = newElement('trial', '', lettered('Fern', 10, { face: face.id }), TRIAL)
        const proof = { ...emptyScene('trial', TRIAL), faces: [face], elements: [trial] }
        await workshop.pool.run('sceneBoxes', [proof, 0])
        faces.push(face)
      }
      await edit(id, files.length === 1 ? 'Take in a type face' : 'Take in type faces', draft => {
        draft.faces = [...(draft.faces ?? []), ...faces.slice(held)]
      })
      const names = faces.slice(held).map(({ name }) => name)
      desk.message = `${names.join(', ')} can be chosen as a face.`
    } catch (error) {
      desk.message = sentenceOf(error)
    }
  }

  return { scenes, opened, add, edit, takeFaces }
})
