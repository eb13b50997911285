/** Scenes of the job: sources whose files are made of what the job itself says. */
import { current } from 'immer'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import { useJob } from '~/stores/job'
import type { JobSource } from '~~/core/job/job'
import { factsOfScene, sceneFile } from '~~/core/scene/as-file'
import type { Scene } from '~~/core/scene/scene'
import { AS_FOUND } from '~~/core/source/source'

export const useScenes = defineStore('scenes', () => {
  const jobs = useJob()
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

  return { scenes, add, edit }
})
