/** What the place of scenes asks of workers. */
import type { WorkContext } from '../work/context'
import type { FileRef } from '../files/file'
import { sceneInFile } from './format'
import { SceneRenderer } from './render'
import type { Scene } from './scene'

export const sceneTasks = {
  /** The description in a file of a scene, wherever it lies. */
  readSceneFile: ({ host }: WorkContext, file: FileRef) => sceneInFile(file, host),

  /**
   * Where the elements lie at a frame: left, top, right and bottom in the picture, by id; only of those that are there.
   */
  sceneBoxes: async ({ host }: WorkContext, scene: Scene, index: number) =>
    (await SceneRenderer.of(scene, host)).boxes(index),

  /** Whether it loops without a seam. */
  sceneCloses: async ({ host }: WorkContext, scene: Scene) => (await SceneRenderer.of(scene, host)).closes()
}
