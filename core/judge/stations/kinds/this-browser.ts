/** This browser itself, which plays the real file in a page of its own. */
import { formatById } from '../../../open/registry'
import { STRAIGHT } from '../../../frame/frame'
import { ifAlpha, judged, taking, type Station } from '../station'

export const thisBrowser: Station = {
  id: 'this-browser',
  name: 'This browser',
  family: 'a web page that shows the file itself',
  explains: 'The real file is played in a closed-off page, and what it draws is read back pixel by pixel.',
  kind: 'browser',
  refuses: ({ facts }) =>
    formatById(facts.format).page?.moves
      ? null
      : 'No page plays this file. Pour WebM, WebP or an animated PNG for web pages.',
  takes: ({ facts }) => taking(ifAlpha(facts, STRAIGHT)),
  judge: (_, { error }) => judged(error, 'wrong', 'Pour WebM, WebP or an animated PNG for web pages.')
}
