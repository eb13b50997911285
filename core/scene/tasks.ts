/** What the place of scenes asks of workers. */
import type { WorkContext } from '../work/context'
import { SceneRenderer } from './render'
import type { Scene } from './scene'

export const sceneTasks = {
  /** Where the elements lie at a frame: left, top, right and bottom in the picture, by id; only of those that are there. */
  sceneBoxes: async ({ host }: WorkContext, scene: Scene, index: number) =>
    (await SceneRenderer.of(scene, host)).boxes(index)
}
