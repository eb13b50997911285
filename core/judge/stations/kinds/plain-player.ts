/** A player that has never heard of alpha. */
import { OPAQUE } from '../../../frame/frame'
import { judged, opensAll, share, taking, type Station } from '../station'

export const plainPlayer: Station = {
  id: 'plain-player',
  name: 'Plain player',
  family: 'a player that ignores alpha',
  explains: 'It draws the stored colour and nothing else, even where the picture should be clear.',
  kind: 'picture',
  refuses: opensAll,
  takes: () => taking(OPAQUE),
  judge: (_, { error }) =>
    judged(
      error,
      'wrong',
      'It cannot be told otherwise. Judge transparency elsewhere; for mere viewing send an outlet with colour only.',
      `No transparency at all: ${share(error.share)} of the picture is wrong.`
    )
}
