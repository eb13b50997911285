/** What is done to elements of a scene as wholes: put in, copied, moved in their order, taken away. */
import type { Ref } from 'vue'
import { calledOf } from '~/components/scenes/words'
import { useActs } from '~/composables/useActs'
import { useCopies } from '~/composables/useCopies'
import { useDesk } from '~/stores/desk'
import { plainScene } from '~~/core/draw/scene/as-file'
import { elementsText, freePlace, freshId, paste, readElements } from '~~/core/draw/scene/copies'
import { kindOf, type Look } from '~~/core/draw/scene/elements/kinds'
import { newElement } from '~~/core/draw/scene/fresh'
import { remove, reorder } from '~~/core/draw/scene/groups'
import { fullestFrame } from '~~/core/draw/scene/order'
import type { Element, Scene } from '~~/core/draw/scene/scene'
import { lastsOf, presenceOf, timesOf } from '~~/core/draw/scene/timing'

interface Around {
  /** The scene in hand; null while there is none. */
  scene: Readonly<Ref<Scene | null>>
  /** Id of the element whose form is open. */
  opened: Ref<string | null>
  /** The frame shown, from 0. */
  index: Ref<number>
  /** One edit of the scene, under the words that undoing it is called by. */
  edit: (label: string, change: (scene: Scene) => void) => Promise<void>
}

/** Also takes copying, pasting, duplicating and removing by key for the page it is used on. */
export function useElementActs({ scene, opened, index, edit }: Around) {
  const desk = useDesk()

  const editElement = (id: string, label: string, change: (element: Element) => void): Promise<void> =>
    edit(label, now => {
      const element = now.elements.find(other => other.id === id)
      if (element) change(element)
    })

  /** Puts an element in front of all others, under a name of its own. */
  async function place(look: Look, name?: string): Promise<void> {
    const now = scene.value
    if (!now) return
    const { kind } = look
    const id = freshId(now, kind)
    const element: Element = newElement(id, '', look, now)
    if (!kindOf(look).unseen) Object.assign(element, freePlace(now, element.x, element.y))
    element.name = name?.slice(0, 80) ?? `${calledOf(element)} ${now.elements.length + 1}`
    element.entrance = {
      kind: kindOf(look).comes,
      seconds: Math.min(0.5, lastsOf(now) / 4),
      ease: 'soft',
      side: 'left'
    }
    await edit('Add an element', draft => void draft.elements.unshift(element))
    show(id)
  }

  /** Opens an element, in a frame in which it is to be seen. */
  function show(id: string): void {
    opened.value = id
    const [now, element] = [scene.value, scene.value?.elements.find(each => each.id === id)]
    if (!now || !element) return
    const seconds = (index.value * lastsOf(now)) / now.frames
    if (presenceOf(element, timesOf(now).get(id)!, seconds) < 0.5) index.value = fullestFrame(now)
  }

  async function pasteElements(elements: readonly Element[], label: string, before?: string): Promise<void> {
    let pasted: ReturnType<typeof paste> | null = null
    await edit(label, now => void (pasted = paste(now, elements, before)))
    const { ids, changed } = pasted ?? { ids: [], changed: [] }
    if (ids[0]) show(ids[0])
    if (changed.length) desk.message = changed.join(' ')
  }

  async function duplicate(id: string): Promise<void> {
    if (scene.value) await pasteElements(readElements(elementsText(plainScene(scene.value), id)), 'Duplicate', id)
  }

  const copies = useCopies({
    copy: () => (scene.value && opened.value ? elementsText(plainScene(scene.value), opened.value) : null),
    paste: text => (scene.value ? pasteElements(readElements(text), 'Paste') : undefined),
    duplicate: () => opened.value && duplicate(opened.value),
    remove: () => opened.value && takeAway(opened.value)
  })
  const move = (id: string, by: 1 | -1): Promise<void> => edit('Change the order', now => reorder(now, id, by))

  const acts = useActs()

  function menu(event: MouseEvent, element: Element): void {
    const { id } = element
    opened.value = id
    acts.open(event, [
      { label: 'Duplicate', key: 'Ctrl D', run: () => duplicate(id) },
      { label: 'Copy', key: 'Ctrl C', run: copies.copy },
      { label: 'Paste', key: 'Ctrl V', run: copies.paste },
      { label: 'Forward', apart: true, run: () => move(id, -1) },
      { label: 'Back', run: () => move(id, 1) },
      {
        label: element.hidden ? 'Show' : 'Hide',
        apart: true,
        run: () => editElement(id, element.hidden ? 'Show' : 'Hide', now => void (now.hidden = !now.hidden))
      },
      {
        label: element.locked ? 'Unlock' : 'Lock',
        run: () => editElement(id, 'Lock', now => void (now.locked = !now.locked))
      },
      { label: 'Remove', key: 'Delete', apart: true, run: () => takeAway(id) }
    ])
  }

  async function takeAway(id: string): Promise<void> {
    await edit('Remove an element', now => remove(now, id))
    if (opened.value === id) opened.value = null
  }

  return { place, move, menu, takeAway }
}
