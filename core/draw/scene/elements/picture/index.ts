/** Pictures: a PNG file that goes along with the description. */
import { z } from 'zod'
import { bitmapOf, layBitmap } from '../../bitmap'
import { MOST, size } from '../../values'
import { elementKind } from '../kind'
import { boxOfSize, fitted, widthEntry } from '../sized'

const schema = z.object({
  kind: z.literal('picture'),
  /** The file, in base64. */
  data: z.string().max(MOST.picture),
  width: size.min(0.1),
  height: size.min(0.1)
})

export const picture = elementKind({
  schema,
  name: 'Picture',
  help: 'A picture that the scene carries along: a drawing, a still, or a frame of a film.',
  begins: {
    from: 'picture',
    fresh: (scene, { data, ...own }): z.infer<typeof schema> => ({
      kind: 'picture',
      data,
      ...fitted(own, { width: 0.8 * scene.width, height: 0.8 * scene.height })
    })
  },
  fills: {
    // as wide and as tall as the room that the one before it had lets it be
    picture(look, { data, width, height }) {
      const by = Math.min(look.width / width, look.height / height)
      Object.assign(look, { data, width: width * by, height: height * by })
    }
  },
  comes: 'fade',
  moves: [],
  entries: look => [widthEntry(look, schema.shape)],
  async lay(look, { name, host }) {
    const bitmap = await bitmapOf(look.data, name, host)
    return { box: boxOfSize(look), missing: [], draw: ({ at, clip }) => layBitmap(bitmap, look, at, clip) }
  }
})
