/** Groups: other elements taken together, which name the group in `inside`. */
import { z } from 'zod'
import { elementKind } from '../kind'

const schema = z.object({ kind: z.literal('group') })

export const group = elementKind({
  schema,
  name: 'Group',
  help: 'Elements that move, turn, fade and cast a shadow as one.',
  begins: { from: 'size', fresh: (): z.infer<typeof schema> => ({ kind: 'group' }) },
  comes: 'fade',
  moves: [],
  holds: true,
  entries: () => [],
  lay: (_, { members }) => ({ box: members, missing: [], draw: ({ members: laid }) => laid() })
})
