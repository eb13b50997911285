/** Other sources of the job within a scene: films, sequences and scenes. */
import { z } from 'zod'
import { layBitmap } from '../../bitmap'
import { lacking, size } from '../../values'
import { boundsOf, choiceEntry, entryOf, heldTo, numberEntry } from '../entry'
import { elementKind } from '../kind'
import { lookOwner } from '../owner'
import { boxOfSize, fitted, widthEntry } from '../sized'

const schema = z.object({
  kind: z.literal('clip'),
  /** Its id in the job; in a file by itself the path of its file, from where the scene's lies. */
  source: z.string().min(1).max(1000),
  /** What it is called. */
  title: lacking(z.string().max(80), ''),
  width: size.min(0.1),
  height: size.min(0.1),
  /** The first of its pictures that is shown, from 0. */
  from: lacking(z.number().int().min(0).max(1_000_000), 0),
  /** How many times as fast as it is; 0 is a still, below that it goes backwards. */
  speed: z.number().min(-64).max(64).optional(),
  /** What comes after its last picture: that one again, or the first. */
  ends: lacking(z.enum(['holds', 'repeats']), 'holds')
})
export type ClipLook = z.infer<typeof schema>

export const clip = elementKind({
  schema,
  name: 'Source',
  help: 'Another source of the job, shown from the moment the element comes.',
  begins: {
    from: 'source',
    fresh: (scene, { id, name, ...own }): ClipLook => ({
      kind: 'clip',
      source: id,
      title: name.slice(0, 80),
      ...fitted(own, scene),
      from: 0,
      ends: 'holds'
    })
  },
  comes: 'fade',
  moves: [],
  entries(look) {
    const owner = lookOwner(look)
    const { from } = schema.shape
    const value = look.from + 1
    const { max } = boundsOf(from)
    // pictures are counted from 1 as everywhere
    const field = { type: 'number', label: 'From its frame', typed: true, min: 1, max: max + 1, default: 1 } as const
    return [
      widthEntry(look, schema.shape),
      entryOf(owner, { field, value }, (now, entered) => {
        now.from = Math.round(heldTo(from, Number(entered) - 1))
      }),
      numberEntry(
        { ...owner, now: { ...look, speed: look.speed ?? 1 } },
        'Speed, ×',
        ['speed', schema.shape.speed.unwrap()],
        {
          step: 0.1
        }
      ),
      choiceEntry(owner, 'After its last', [
        'ends',
        [
          { value: 'holds', label: 'it stays' },
          { value: 'repeats', label: 'it begins again' }
        ]
      ])
    ]
  },
  lay: look => ({
    box: boxOfSize(look),
    missing: [],
    draw: ({ picture, at, clip: within }) => layBitmap(picture(), look, at, within)
  })
})
