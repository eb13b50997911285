/** What a station makes of a delivered frame, and what a picture that somebody else drew shows. */
import type { HexColour } from '../../base/colour'
import { wrongCall } from '../../base/errors'
import { withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import { STRAIGHT, type AlphaMode } from '../../frame/frame'
import type { SourceSpec, FilesSpec } from '../../source/source'
import type { WorkContext } from '../../open/context'
import { onFrames } from '../../source/at-hand'
import type { TasksOf } from '../../base/pool'
import type { StationScene } from './scene'
import { compose, pictureError, type PictureError } from './show'
import { stationById } from './stations'
import { visit, type Visit } from './visit'

export interface StationRequest {
  station: string
  delivered: FilesSpec
  index: number
  /** The mode the sender means it to have. */
  due: AlphaMode
  scene: StationScene
  /** A source whose frame stands behind, in place of the scene's backdrop. */
  behind?: { spec: SourceSpec; index: number } | null
  /** The source as prepared, and its frame that belongs to this one. */
  reference?: { spec: SourceSpec; index: number } | null
}

export interface PictureRequest {
  delivered: FilesSpec
  index: number
  backdrop: HexColour
  /** The source as prepared, and its frame that belongs to this one. */
  reference?: { spec: SourceSpec; index: number } | null
}

/** The station reads the stored samples: how the file was meant is none of its knowledge. */
async function station(
  context: WorkContext,
  { station: id, delivered, index, due, scene, behind = null, reference = null }: StationRequest
): Promise<Visit> {
  const known = stationById(id)
  if (!known) throw wrongCall(`there is no station called ${id}`)
  const source = await context.source({ ...delivered, interpretation: { ...delivered.interpretation, alpha: null } })
  return onFrames(context, async frames => {
    const whole = reference ? (await frames.of(reference.spec, reference.index)).frame : null
    const { kernels } = context.host
    const own = behind ? (await frames.seen(behind.spec, behind.index)).frame : null
    const before: StationScene = own
      ? {
          ...scene,
          backdrop: { kind: 'picture', picture: withDepth(withAlphaMode(own, STRAIGHT, kernels), 32, kernels) }
        }
      : scene
    return visit(
      { station: known, facts: source.facts, due, index, scene: before, frame: i => source.frame(i), source: whole },
      kernels
    )
  })
}

/**
 * Judges a picture that somebody else drew of a frame over a backdrop, what a browser shows, read back: against the
 * frame as delivered and, where the source is at hand at the same size, how far that frame is off the source's own.
 */
function judgePicture(
  context: WorkContext,
  shown: Uint8ClampedArray,
  { delivered, index, backdrop, reference = null }: PictureRequest
): Promise<{ shown: PictureError; source: PictureError | null }> {
  const { kernels } = context.host
  return onFrames(context, async frames => {
    const { frame: delivery } = await frames.seen(delivered, index)
    const truth = compose(delivery, backdrop, kernels)
    const whole = reference ? (await frames.seen(reference.spec, reference.index)).frame : null
    const same = whole && whole.width === delivery.width && whole.height === delivery.height
    return {
      shown: pictureError(shown, truth, delivery.width, kernels),
      source: same ? pictureError(truth, compose(whole, backdrop, kernels), delivery.width, kernels) : null
    }
  })
}

export const stationTasks = { station, judgePicture }

export type StationTasks = TasksOf<typeof stationTasks>
