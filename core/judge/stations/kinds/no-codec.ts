/** A page whose browser cannot play the film. */
import type { OnPage } from '../../../media/formats/traits/on-page'
import { formatById } from '../../../open/registry'
import { believed, judged, taking, type Station } from '../station'

const onPage = (format: string): OnPage | null => formatById(format).page ?? null

export const noCodec: Station = {
  id: 'no-codec',
  name: 'Page without the codec',
  family: 'a web page in a browser that cannot play this film',
  explains: 'Where the film cannot be played, the page shows what stands behind it: a fallback, or nothing.',
  kind: 'picture',
  refuses: ({ facts }) => (onPage(facts.format) ? null : 'No page is meant to show this file.'),
  takes: ({ facts }) => taking(believed(facts), { blank: onPage(facts.format)?.element === 'film' }),
  judge: (_, { error }) =>
    judged(
      error,
      'setting',
      'Pour an animated PNG or WebP too, and name it in the page as the fallback.',
      'The page stays empty.'
    )
}
