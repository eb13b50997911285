/** What a watched folder remembers from run to run: what was begun, what is proven, and whose each delivery is. */
import { z } from 'zod'

const Report = z.object({
  arrival: z.string(),
  deliveries: z.array(z.record(z.string(), z.unknown())),
  remarks: z.array(z.string()),
  faults: z.array(z.string())
})

const Journal = z.object({
  pour: z.literal('watch-journal'),
  version: z.literal(1),
  /** By arrival: begun, or proven and to be put aside. */
  taken: z.record(
    z.string(),
    z.discriminatedUnion('stage', [
      z.object({ stage: z.literal('pouring'), state: z.string() }),
      z.object({
        stage: z.literal('proven'),
        state: z.string(),
        into: z.string(),
        as: z.string(),
        report: Report,
        ended: z.number()
      })
    ])
  ),
  /** By name in the output, the arrival it was made of. */
  owners: z.record(z.string(), z.string()),
  /** By arrival, names it has taken in a delivery that is not proven yet. */
  unfinished: z.record(z.string(), z.array(z.string()))
})
export type Journal = z.infer<typeof Journal>

/** The journal of a folder in which nothing has arrived. */
export const emptyJournal = (): Journal => ({
  pour: 'watch-journal',
  version: 1,
  taken: {},
  owners: {},
  unfinished: {}
})

/** The journal that a text holds; an empty one where there is none, or it was cut short by what ended its writer. */
export function readJournal(text: string | null): Journal {
  if (text === null) return emptyJournal()
  try {
    return Journal.parse(JSON.parse(text))
  } catch {
    return emptyJournal()
  }
}

/** A journal as the text of its file. */
export const journalText = (journal: Journal): string => `${JSON.stringify(journal)}\n`
