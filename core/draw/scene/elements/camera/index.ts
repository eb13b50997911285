/** Cameras: where a scene is looked at from. What they do to what lies in it stands in scene/camera.ts. */
import { z } from 'zod'
import { elementKind } from '../kind'

const schema = z.object({ kind: z.literal('camera') })

export const camera = elementKind({
  schema,
  name: 'Camera',
  help:
    'Where the scene is looked at from: it moves, turns, comes nearer (scale) and goes in (depth); what lies deeper ' +
    'moves less.',
  begins: { from: 'size', fresh: (): z.infer<typeof schema> => ({ kind: 'camera' }) },
  comes: 'none',
  moves: [],
  unseen: true,
  entries: () => [],
  lay: () => ({ box: [0, 0, 0, 0], missing: [], draw: () => null })
})
