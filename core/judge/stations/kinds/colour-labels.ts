/** Two screens of sRGB: one that heeds what the file says of its colours, and one that does not. */
import { isWide, sayTags } from '../../../frame/colour-tags'
import { RIGHT, judged, opensAll, sayColours, taking, type Guest, type Judgement, type Station } from '../station'

const said = ({ facts }: Guest): string => sayTags(facts.tags!)

/** What neither can be judged by: a label whose colours are not computed here. */
const unknown = (guest: Guest): Judgement => ({
  standing: 'setting',
  sentence:
    `The file says ${said(guest)}, which is not drawn here: it is shown as sRGB, and whether it is ` +
    'right there has to be seen there.'
})

export const heedsColour: Station = {
  id: 'heeds-colour',
  name: 'Heeds colour labels',
  family: 'a managed viewer or editor on a screen of sRGB',
  explains: 'It looks for what the file says of its colours and brings them to its screen.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ due }) => taking(due, { colour: 'by-label' }),
  judge(guest, { error, label }) {
    if (!isWide(guest.facts.tags)) return RIGHT
    if (label === 'unknown') return unknown(guest)
    return error.codes <= 1
      ? { standing: 'right', sentence: `Right as it is: ${said(guest)} is brought to its screen.` }
      : judged(error, 'setting', 'Set the clip’s colour there by hand.')
  }
}

export const ignoresColour: Station = {
  id: 'ignores-colour',
  name: 'Ignores colour labels',
  family: 'a player or program that takes every code as sRGB',
  explains:
    'It shows codes as they are, whatever the file says of them. Wide or bright colour looks pale, or too dark.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ due }) => taking(due, { colour: 'as-srgb' }),
  judge(guest, { error, label }) {
    if (!isWide(guest.facts.tags)) return RIGHT
    if (label === 'unknown') return unknown(guest)
    return judged(
      error,
      'wrong',
      `It cannot be told that the file is ${said(guest)}. Send it “Bring colour to sRGB” first.`,
      sayColours(error)
    )
  }
}
