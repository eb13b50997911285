/** A scene that shows other sources. */
import { openScene } from '../../draw/scene/format'
import type { SceneSpec } from '../../source/source'
import { interpret } from '../interpret'
import { lentAll, type Opener } from './opener'

export const scene: Opener<SceneSpec> = async ({ of, others }, opening) => {
  const drawn = await openScene(of.files[0]!, opening.host, await lentAll(others, opening))
  const close = (): Promise<void> => drawn.close().finally(() => opening.givenBack())
  return interpret({ ...drawn, facts: { ...drawn.facts, format: of.format }, close }, of)
}
