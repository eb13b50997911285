/** What of a scene's lettering is never to be seen. */
import { kindOf } from './elements/kinds'
import type { Element, Scene } from './scene'

/** The part of a side that has lain within the picture, from 0 to 1. */
interface Span {
  from: number
  to: number
}
const NEVER: Span = { from: 1, to: 0 }
/** Share of a side of lettering that may stick out unsaid: its box is a little larger than its ink. */
const SLIVER = 0.02

/** Adds what of a side lies within the picture. */
function seen(span: Span, [from, to]: [number, number], room: number): void {
  const length = to - from
  if (length <= 0 || to <= 0 || from >= room) return
  span.from = Math.min(span.from, Math.max(0, -from) / length)
  span.to = Math.max(span.to, (Math.min(room, to) - from) / length)
}

/**
 * Lettering of which some never lies within the picture, at none of `most` frames spread over the clip: its name and
 * the share of its width or height, whichever is more, that is never there. What rolls or slides through is not among
 * it: all of it is there at some time. `boxes` says where elements lie at a frame, by id.
 */
export function neverSeen(
  { frames, width, height }: Scene,
  elements: readonly Element[],
  boxes: (index: number) => Record<string, [number, number, number, number]>,
  most = 24
): { name: string; share: number }[] {
  const steps = Math.min(most, frames)
  const spans = new Map<string, [Span, Span]>()
  for (let n = 0; n < steps; n++) {
    const at = boxes(steps === 1 ? 0 : Math.round((n * (frames - 1)) / (steps - 1)))
    for (const [id, [left, top, right, bottom]] of Object.entries(at)) {
      const [across, down] = spans.get(id) ?? [{ ...NEVER }, { ...NEVER }]
      seen(across, [left, right], width)
      seen(down, [top, bottom], height)
      spans.set(id, [across, down])
    }
  }
  return elements.flatMap(({ id, look, name }) => {
    const found = kindOf(look).words?.of(look).trim() && spans.get(id)
    if (!found) return []
    const share = Math.max(...found.map(({ from, to }) => 1 - Math.max(0, to - from)))
    return share > SLIVER ? [{ name, share }] : []
  })
}
