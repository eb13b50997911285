/** A picture that a scene carries along, out of any source: which frame, in which alpha mode, what is to be said. */
import type { Pool } from '../../base/pool'
import { midstOf } from '../../draw/scene/order'
import type { CarriedPicture } from '../../draw/scene/tables'
import { spaceOf } from '../../prepare/gamut'
import type { FilesSpec, SourceFacts } from '../../source/source'
import { examine } from '../examine/examination'
import { modeAdvised } from '../examine/mode'
import type { ExamineTasks } from '../examine/tasks'
import type { SceneTasks } from './scene-tasks'

export interface CarriedFrame {
  picture: CarriedPicture
  /** A sentence each: which frame of several it is, how its alpha was taken, what else is to be known of the source. */
  said: string[]
}

/**
 * The picture of a still, or the frame in the midst of a film, as its pixels and its file advise it to be taken.
 * Rejects with one clear error where it cannot be read, or is longer than a scene carries.
 */
export async function carriedFrom(
  { spec, facts }: { spec: FilesSpec; facts: SourceFacts },
  pool: Pool<ExamineTasks & SceneTasks>
): Promise<CarriedFrame> {
  const { name, frames, claim, colour } = facts
  const index = frames > 1 ? midstOf(frames) : 0
  const look = await pool.run('look', [spec, index], { priority: 'now' })
  const { alpha: answer } = examine([{ frame: index + 1, look }], facts)
  const alpha = modeAdvised(answer, claim)
  const taken: FilesSpec = {
    ...spec,
    id: `${spec.id} as ${JSON.stringify(alpha)}`,
    interpretation: { ...spec.interpretation, alpha }
  }
  const picture = await pool.run('carriedFrame', [taken, index], { priority: 'now' })
  const said = [...spec.findings, ...facts.findings].flatMap(({ severity, sentence }) =>
    severity === 'note' ? [] : [`${name}: ${sentence}`]
  )
  if (frames > 1) said.push(`Frame ${index + 1} of ${frames} of ${name} is the picture.`)
  if (alpha.mode !== 'none' && claim.mode !== alpha.mode)
    said.push(`${name} is taken as ${alpha.mode}: ${answer.evidence.sentence}`)
  const space = spaceOf(colour ?? '', colour)
  // linear light is coded as screens see it
  if (space && space !== 'linear') said.push(`The colour of ${name} is ${colour}; the scene takes its codes as sRGB.`)
  return { picture, said }
}
