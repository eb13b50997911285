/**
 * A scene under the hand: where its elements stand in the frame shown, which are chosen, and what it would be while a
 * change is still going on.
 */
import { produce } from 'immer'
import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { useWorkshop } from '~/stores/workshop'
import { isAbort } from '~~/core/base/errors'
import { plainScene, sceneFile } from '~~/core/draw/scene/as-file'
import { lineUp, spread, type Edge, type Stands } from '~~/core/draw/scene/hands'
import type { Scene } from '~~/core/draw/scene/scene'

/** Milliseconds within which an edit is kept. */
const SETTLES = 250

interface Around {
  scene: Readonly<Ref<Scene | null>>
  /** Id of the element whose form is open. */
  opened: Ref<string | null>
  /** The frame shown, from 0. */
  index: Readonly<Ref<number>>
  playing: () => boolean
  edit: (label: string, change: (scene: Scene) => void) => Promise<void>
}

export function useSceneHands({ scene, opened, index, playing, edit }: Around) {
  const { pool } = useWorkshop()
  const stands = shallowRef<Stands>({})
  watch(
    [() => scene.value && sceneFile(scene.value).stamp, index, playing],
    async (_now, _before, onCleanup) => {
      const now = scene.value
      if (!now || playing()) return
      const stop = new AbortController()
      onCleanup(() => stop.abort())
      try {
        const options = { signal: stop.signal, priority: 'now' } as const
        stands.value = await pool.run('sceneStands', [plainScene(now), index.value], options)
      } catch (error) {
        // what cannot be laid out is said in the viewer
        if (!isAbort(error)) stands.value = {}
      }
    },
    { immediate: true }
  )

  /** Chosen beside the one that is opened; of another they say nothing. */
  const also = ref<{ of: string | null; ids: readonly string[] }>({ of: null, ids: [] })
  const chosen = computed(() => {
    const ids = new Set(scene.value?.elements.map(({ id }) => id))
    const { of, ids: others } = also.value
    return [opened.value, ...(of === opened.value ? others : [])].filter(id => id !== null && ids.has(id)) as string[]
  })

  /** Chooses an element, or none; with `more` beside those that are, or no longer. */
  function choose(id: string | null, more = false): void {
    const before = chosen.value
    const next = !more || !id ? [id] : before.includes(id) ? before.filter(other => other !== id) : [...before, id]
    opened.value = next[0] ?? null
    also.value = { of: opened.value, ids: next.slice(1) as string[] }
  }

  /** The scene as it would be: shown, not kept. */
  const trial = shallowRef<Scene | null>(null)
  let next: Scene | null = null
  let waiting = false
  /** Whether the attempt is over once its picture stands there. */
  let ends = false
  function attempt(change: ((scene: Scene) => void) | null): void {
    ends = false
    if (!change || !scene.value) {
      trial.value = next = null
      waiting = false
      return
    }
    next = produce(scene.value, change)
    if (waiting) return
    // what looks as it does already is drawn by nobody
    waiting = sceneFile(next).stamp !== sceneFile(trial.value ?? scene.value).stamp
    trial.value = next
  }
  /** The picture of the last attempt stands there: the next may come. */
  function shown(): void {
    if (ends) attempt(null)
    else if (next && next !== trial.value) trial.value = next
    else waiting = false
  }
  /** Ends an attempt that was kept; its picture is seen first, for the exact one takes longer. */
  function end(): void {
    const was = next
    if (!waiting) return attempt(null)
    ends = true
    setTimeout(() => {
      if (ends && next === was) attempt(null)
    }, SETTLES)
  }

  /** Lets an attempt go, once what is kept of it has had time to come. */
  function letGo(): void {
    const was = next
    setTimeout(() => {
      if (next === was) attempt(null)
    }, SETTLES)
  }

  /** Keeps a change, tried before or not; it is seen at once. The change is made twice, and says nothing beside. */
  async function keep(label: string, change: (scene: Scene) => void): Promise<void> {
    attempt(change)
    await edit(label, change)
    end()
  }

  const inLine = (edge: Edge): Promise<void> => edit('Line up', now => lineUp(now, stands.value, chosen.value, edge))
  const evenly = (way: 'across' | 'down'): Promise<void> =>
    edit('Even gaps', now => spread(now, stands.value, chosen.value, way))

  return { stands, chosen, choose, trial, attempt, letGo, shown, keep, inLine, evenly }
}
