/** The form of delivered frames: what conversion, writer and proof agree on. */
import type { HexColour } from '../../base/colour'
import type { AlphaMode, Depth, Transfer } from '../../frame/frame'
import type { AlphaHalf } from '../../frame/stacked'
import type { LightCurve } from '../../frame/light-curve'

/** Which part of a picture is delivered. All but the whole are solid pictures without an alpha channel. */
export type Content =
  | { kind: 'whole' }
  /** Alpha as a grey picture: the key of a fill-and-key chain, or alpha by itself. */
  | { kind: 'alpha' }
  /** The colour samples of that mode, alpha left out: the fill that belongs to a key. */
  | { kind: 'fill'; mode: AlphaMode }
  /** Colour samples of that mode and alpha as grey, two halves of one picture: which half is alpha. */
  | { kind: 'stacked'; mode: AlphaMode; half: AlphaHalf }
  /** Colour laid on a colour, as a page or a screen of that colour would show it. */
  | { kind: 'flattened'; backing: HexColour }

export interface Form {
  depth: Depth
  /** Bits that its codes hold, where fewer than the depth: they are those of so many bits, scaled up. */
  bits?: number
  alpha: AlphaMode
  /** Bits the delivered alpha holds; where fewer than the depth, its codes are those of that depth scaled up. */
  alphaBits: number
  transfer: Transfer
  /** The curve by which codes become light, of a form of light alone, and where it is not sRGB's. */
  curve?: LightCurve | null
  /** Whether float samples are rounded to 16-bit floats. */
  half: boolean
  /** Where alpha can only be on or off: from which share of full it is on, and what soft edges are laid on first. */
  cut: { threshold: number; matte: string | null } | null
  content: Content
}

/** Whole frames of a depth and mode with nothing else asked of them. */
export function wholeForm(depth: Depth, alpha: AlphaMode, more: Partial<Form> = {}): Form {
  return {
    depth,
    alpha,
    alphaBits: depth,
    transfer: 'srgb',
    half: false,
    cut: null,
    content: { kind: 'whole' },
    ...more
  }
}

/** Whether two forms hold samples alike: depth, mode, bits of alpha, light or codes, and what is cut. */
export function sameForm(a: Form, b: Form): boolean {
  const told = ({ depth, bits, alpha, alphaBits, transfer, curve, half, cut, content }: Form): string =>
    JSON.stringify([depth, bits ?? depth, alpha, alphaBits, transfer, curve ?? null, half, cut, content])
  return told(a) === told(b)
}
