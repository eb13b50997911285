/** Figures of a preparation and of a recipe, counted by workers and added up over a clip. */
import type { Form } from '../../media/formats/form'
import type { SourceSpec } from '../../source/source'
import { inOrder } from '../../base/pool'
import type { Workshop } from '../../frame/workshop'
import { addLight, noLight } from './light'
import { stillSteps, type RecipeFigures, type StepFigures } from './measure'
import type { LedgerTasks } from './tasks'

/** Figures of each still step over the frames asked for, by its id. */
export async function measureSteps(
  spec: SourceSpec,
  frames: readonly number[],
  { pool, signal }: Pick<Workshop<LedgerTasks>, 'pool' | 'signal'>
): Promise<Map<string, StepFigures & { frames: number }>> {
  const steps = stillSteps(spec.kind === 'prepared' ? spec.steps : [])
  type Sum = StepFigures & { frames: number }
  const sums = new Map<string, Sum>()
  for (const { id } of steps)
    sums.set(id, { pixels: 0, alpha: 0, colour: 0, seen: 0, cutOff: 0, frames: 0, light: noLight() })
  if (steps.length === 0) return sums
  await inOrder(
    frames.length,
    pool.size * 2,
    n => pool.run('stepFigures', [spec, frames[n]!], { signal }),
    each => {
      steps.forEach(({ id }, s) => {
        const [sum, more] = [sums.get(id)!, each[s]!]
        for (const key of ['pixels', 'alpha', 'colour', 'seen', 'cutOff'] as const) sum[key] += more[key]
        addLight(sum.light, more.light)
        if (more.cutOff > 0) sum.frames++
      })
    }
  )
  return sums
}

/** Figures of a recipe over the frames delivered. */
export async function measureRecipe(
  spec: SourceSpec,
  { frames, form }: { frames: readonly number[]; form: Form },
  { pool, signal }: Pick<Workshop<LedgerTasks>, 'pool' | 'signal'>
): Promise<RecipeFigures> {
  const sum: RecipeFigures = {
    before: new Uint8Array(8192),
    after: new Uint8Array(8192),
    hardened: 0,
    partial: 0,
    alphaMax: 0,
    colourSum: 0,
    colourFar: 0,
    visible: 0,
    changed: 0,
    clipped: 0,
    brightest: 0
  }
  await inOrder(
    frames.length,
    pool.size * 2,
    n => pool.run('recipeFigures', [spec, frames[n]!, form], { signal }),
    more => {
      for (let i = 0; i < 8192; i++) {
        sum.before[i]! |= more.before[i]!
        sum.after[i]! |= more.after[i]!
      }
      for (const key of ['hardened', 'partial', 'colourSum', 'colourFar', 'visible', 'changed', 'clipped'] as const)
        sum[key] += more[key]
      sum.brightest = Math.max(sum.brightest, more.brightest)
      sum.alphaMax = Math.max(sum.alphaMax, more.alphaMax)
    }
  )
  return sum
}
