/**
 * What QuickTime's description of a film of VC-3 says beside: colour range, that frames are whole, and the kind and
 * size, or the kind, sampling and bits. No open text lists them; they are as a media library writes them.
 */
import type { Beside } from '../../containers/container'
import type { Vc3Written } from './written'

/** One of them: its name again, its edition, and numbers of 32 bits. */
function said(name: string, ...numbers: number[]): Beside {
  const content = new Uint8Array(8 + 4 * numbers.length)
  content.set(new TextEncoder().encode(`${name}0001`))
  const view = new DataView(content.buffer)
  for (const [i, number] of numbers.entries()) view.setUint32(8 + 4 * i, number)
  return { name, content }
}

/** What stands beside the description of a film of these frames, in the order it is written in. */
export function atomsOf({ kind, width, height, whole, anySize }: Vc3Written): Beside[] {
  const range = said('ACLR', 1, 0)
  if (anySize) return [range, said('ADHR', kind.id, whole ? 2 : 0, kind.bits === 10 ? 2 : 1, 0)]
  const rest = new Array<number>(20).fill(0)
  return [range, said('APRG', 1, 0), said('ARES', kind.id, width, height, 1, 0, height === 1080 ? 5 : 6, ...rest)]
}
