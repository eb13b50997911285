/** An engine that draws a pixel or leaves it out. */
import { believed, judged, opensAll, share, taking, type Station } from '../station'

export const cutOut: Station = {
  id: 'cut-out',
  name: 'Cuts at half',
  family: 'an engine that cuts alpha at one half',
  explains: 'A pixel is drawn in full or not at all. Soft edges become steps, glass and smoke vanish or turn solid.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(believed(facts), { cut: 0.5, texture: 'straight' }),
  judge: (_, { error }) =>
    judged(
      error,
      'wrong',
      'Ask for blending there, or deliver hard edges on purpose.',
      `Soft edges are lost: ${share(error.share)} of the picture is off by up to ${error.codes} codes.`
    )
}
