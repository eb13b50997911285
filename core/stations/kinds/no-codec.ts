/** A page whose browser cannot play the film. */
import { believed, judged, taking, type Station } from '../station'

const FILMS = ['webm-vp9', 'webm-vp8']
const PICTURES = ['apng', 'webp-animated', 'gif', 'avif-sequence', 'webp-sequence', 'png-sequence', 'jpeg-sequence']

export const noCodec: Station = {
  id: 'no-codec',
  name: 'Page without the codec',
  family: 'a web page in a browser that cannot play this film',
  explains: 'Where the film cannot be played, the page shows what stands behind it: a fallback, or nothing.',
  kind: 'picture',
  refuses: ({ facts }) =>
    FILMS.includes(facts.format) || PICTURES.includes(facts.format) ? null : 'No page is meant to show this file.',
  takes: ({ facts }) => taking(believed(facts), { blank: FILMS.includes(facts.format) }),
  judge: (_, { error }) =>
    judged(
      error,
      'setting',
      'Pour an animated PNG or WebP too, and name it in the page as the fallback.',
      'The page stays empty.'
    )
}
