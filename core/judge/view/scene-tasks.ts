/** What the place of scenes asks of workers. */
import { beneath, type FilesSpec, type SceneSpec, type Source, type SourceSpec } from '../../source/source'
import type { WorkContext } from '../../open/context'
import { specKey } from '../../source/identity'
import type { TasksOf } from '../../base/pool'
import type { FileRef } from '../../base/files/file'
import { carriedPicture } from '../../draw/scene/carried'
import { sceneInFile } from '../../draw/scene/format'
import { viewPixels, type View, type ViewPixels } from './pixels'
import { SceneRenderer } from '../../draw/scene/render'
import type { Scene } from '../../draw/scene/scene'

/** A preview while a scene plays is drawn at this share of its size. */
const PREVIEWED = 0.5

export type RenderedSpec = FilesSpec | SceneSpec

/** The renderer of a scene, and of the sources that it shows, which the worker keeps open. */
async function rendererOf(context: WorkContext, spec: RenderedSpec): Promise<SceneRenderer> {
  const scene = await sceneInFile(beneath(spec).files[0]!, context.host)
  const shown = new Map<string, Source>()
  for (const [id, other] of Object.entries(spec.kind === 'scene' ? spec.others : {}))
    shown.set(id, await context.lent(other))
  return SceneRenderer.of(scene, context.host, shown)
}

/** The renderer of the scene that is being played; a worker plays one at a time. */
let played: { key: string; renderer: Promise<SceneRenderer> } | null = null

export const sceneTasks = {
  /** A frame of a scene at half its size, to be played. */
  async scenePreview(context: WorkContext, spec: RenderedSpec, index: number, view: View): Promise<ViewPixels> {
    const key = specKey(spec)
    if (played?.key !== key) {
      const renderer = rendererOf(context, spec)
      const mine = { key, renderer }
      played = mine
      // what could not be had, a type face say, is asked for again
      renderer.catch(() => {
        if (played === mine) played = null
      })
    }
    return viewPixels(await (await played.renderer).rendered(index, PREVIEWED), view, context.host.kernels)
  },

  /** The description in a file of a scene, wherever it lies. */
  readSceneFile: ({ host }: WorkContext, file: FileRef) => sceneInFile(file, host),

  /**
   * Where the elements lie at a frame: left, top, right and bottom in the picture, by id; only of those that are there.
   */
  sceneBoxes: async ({ host }: WorkContext, scene: Scene, index: number) =>
    (await SceneRenderer.of(scene, host)).boxes(index),

  /** Where the elements stand at a frame, by id; only those that are there. */
  sceneStands: async ({ host }: WorkContext, scene: Scene, index: number) =>
    (await SceneRenderer.of(scene, host)).stands(index),

  /** A frame of a source as the picture that a scene carries along. */
  async carriedFrame(context: WorkContext, spec: SourceSpec, index: number) {
    const source = await context.lent(spec)
    const { facts } = source
    const { data, width, height } = await carriedPicture(await source.frame(index), context.host, facts.name)
    // as wide as it is shown, where pixels are not square
    return { data, width: (width * facts.pixelAspect[0]) / facts.pixelAspect[1], height }
  },

  /** Whether it loops without a seam. */
  sceneCloses: async (context: WorkContext, spec: RenderedSpec) => (await rendererOf(context, spec)).closes()
}

export type SceneTasks = TasksOf<typeof sceneTasks>
