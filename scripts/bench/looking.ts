/** What looking at a source costs beside pouring it: not at all, before it, and while it is poured. */
import type { Pool } from '../../core/base/pool'
import { memorySink } from '../../core/base/files/sinks'
import type { Host } from '../../core/frame/host'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { Looks } from '../../core/judge/examine/looks'
import { formatById } from '../../core/open/registry'
import { pour } from '../../core/run/pour/pour'
import { passingOf } from '../../core/run/pour/passing'
import type { FilesSpec, SourceFacts } from '../../core/source/source'
import type { Tasks } from '../../core/tasks/tasks'
import type { Row } from './row'

interface Given {
  reference: FilesSpec
  facts: SourceFacts
  host: Host
  pool: Pool<Tasks>
}

export async function lookingBenches({ reference, facts, host, pool }: Given): Promise<Row[]> {
  const rows: Row[] = []
  for (const id of ['quicktime-prores-4444', 'quicktime-png', 'quicktime-animation']) {
    const format = formatById(id)
    const plan = planPour(facts, newOutlet('o', format), null)
    const poured = async (looks: Looks | null): Promise<void> => {
      const passing = looks && passingOf(reference, looks)
      await pour({ source: reference, plan, target: { kind: 'film', sink: memorySink() }, passing }, { host, pool })
    }
    const looksAnew = (): Looks => new Looks(reference, facts, { pool, urgent: () => true })
    const ways: [string, () => Promise<void>][] = [
      ['pour alone', () => poured(null)],
      [
        'look, then pour',
        async () => {
          await looksAnew().whole()
          await poured(null)
        }
      ],
      [
        'look while pouring',
        async () => {
          const looks = looksAnew()
          await looks.spread()
          await poured(looks)
          await looks.whole()
        }
      ]
    ]
    let alone = 0
    for (const [what, work] of ways) {
      const began = performance.now()
      await work()
      const took = performance.now() - began
      alone ||= took
      rows.push({
        what: `${format.name}, ${facts.frames} frames: ${what}`,
        perSecond: (facts.frames * 1000) / took,
        ratio: `${(took / alone).toFixed(2)} x the time of pouring alone`
      })
    }
  }
  return rows
}
