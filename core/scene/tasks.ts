/** What the place of scenes asks of workers. */
import type { FilesSpec } from '../source/source'
import { specKey, type WorkContext } from '../work/context'
import type { FileRef } from '../files/file'
import { sceneInFile } from './format'
import { viewPixels, type View, type ViewPixels } from '../view/pixels'
import { SceneRenderer } from './render'
import type { Scene } from './scene'

/** A preview while a scene plays is drawn at this share of its size. */
const PREVIEWED = 0.5

/** The renderer of the scene that is being played; a worker plays one at a time. */
let played: { key: string; renderer: Promise<SceneRenderer> } | null = null

export const sceneTasks = {
  /** A frame of a scene at half its size, to be played. */
  async scenePreview({ host }: WorkContext, spec: FilesSpec, index: number, view: View): Promise<ViewPixels> {
    const key = specKey(spec)
    if (played?.key !== key) {
      const renderer = sceneInFile(spec.files[0]!, host).then(scene => SceneRenderer.of(scene, host))
      const mine = { key, renderer }
      played = mine
      // what could not be had, a type face say, is asked for again
      renderer.catch(() => {
        if (played === mine) played = null
      })
    }
    return viewPixels((await played.renderer).frame(index, PREVIEWED), view, host.kernels)
  },

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
