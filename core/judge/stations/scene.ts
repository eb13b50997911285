/**
 * What stands behind and before a picture at a station, and where the picture is put. Values are sRGB-coded, 0 to 1.
 */
import { z } from 'zod'
import { HexColour, hexAtDepth } from '../../base/colour'
import type { Frame } from '../../frame/frame'

const Made = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('colour'), colour: HexColour }),
  /** A made-up view into a glasshouse; `at` moves it, in seconds. */
  z.object({ kind: z.literal('view'), at: z.number().min(0).max(1e6) })
])

/** What is made here, or a picture of one's own: straight floats, which fill the frame about its middle. */
export type Backdrop = z.infer<typeof Made> | { kind: 'picture'; picture: Frame }

/**
 * Where the picture is put: its middle's way from the frame's middle in shares of the frame, its size, and its turn in
 * degrees clockwise.
 */
export const Placement = z.object({
  x: z.number().min(-2).max(2),
  y: z.number().min(-2).max(2),
  scale: z.number().min(0.02).max(8),
  turn: z.number().min(-360).max(360)
})
export type Placement = z.infer<typeof Placement>

export const IN_PLACE: Placement = { x: 0, y: 0, scale: 1, turn: 0 }

export const StandIn = z.enum(['none', 'behind', 'before'])
export type StandIn = z.infer<typeof StandIn>

/** How the drawn size is filtered. */
export const Filter = z.enum(['smooth', 'nearest'])
export type Filter = z.infer<typeof Filter>

export const StationScene = z.object({
  backdrop: Made,
  place: Placement.default(IN_PLACE),
  /** A flower pot that stands behind the picture, or before it. */
  standIn: StandIn.default('none'),
  filter: Filter.default('smooth')
})
export type StationScene = Omit<z.infer<typeof StationScene>, 'backdrop'> & { backdrop: Backdrop }

/** A station's scene of one colour, the picture in its place. */
export function flatScene(colour: HexColour): StationScene {
  return { backdrop: { kind: 'colour', colour }, place: IN_PLACE, standIn: 'none', filter: 'smooth' }
}

/** Whether the picture of a scene is neither moved, sized nor turned. */
export function isInPlace({ place }: StationScene): boolean {
  return place.x === 0 && place.y === 0 && place.scale === 1 && place.turn === 0
}

type Paint = (x: number, y: number, out: Float32Array) => void

/**
 * Panes of a glasshouse against the sky over a dark bed: light and dark, warm and cool, edges and gradients. `x` and
 * `y` are 0 to 1.
 */
function view(at: number): Paint {
  return (x, y, out) => {
    const u = x + at * 0.08
    const pane = u * 6 - Math.floor(u * 6)
    const row = y * 4 - Math.floor(y * 4)
    if (y > 0.82) {
      const earth = 0.16 + 0.05 * Math.sin(u * 70) * Math.cos(y * 90)
      out[0] = earth * 1.25
      out[1] = earth
      out[2] = earth * 0.7
    } else if (pane < 0.05 || row < 0.035) {
      out[0] = 0.9
      out[1] = 0.9
      out[2] = 0.86
    } else {
      const light = 1 - y
      const leaf = Math.max(0, Math.sin(u * 21 + Math.sin(y * 17) * 1.3)) * (y > 0.35 ? (y - 0.35) * 1.6 : 0)
      out[0] = 0.3 + 0.45 * light - 0.25 * leaf
      out[1] = 0.45 + 0.4 * light - 0.12 * leaf
      out[2] = 0.62 + 0.3 * light - 0.5 * leaf
    }
    for (let c = 0; c < 3; c++) out[c] = Math.min(1, Math.max(0, out[c]!))
  }
}

/** A picture that fills a frame of `aspect`, width over height, and is cut off where it is longer; clear is black. */
function filled({ width, height, samples }: Frame, aspect: number): Paint {
  const own = width / height
  const [across, down] = own > aspect ? [aspect / own, 1] : [1, own / aspect]
  return (x, y, out) => {
    const u = Math.min(width - 1, Math.floor((0.5 + (x - 0.5) * across) * width))
    const v = Math.min(height - 1, Math.floor((0.5 + (y - 0.5) * down) * height))
    const at = 4 * (v * width + u)
    for (let c = 0; c < 3; c++) out[c] = Math.min(1, Math.max(0, samples[at + c]! * samples[at + 3]!))
  }
}

/** Writes the backdrop's colour at a place of the frame, both 0 to 1; `aspect` is the frame's width over its height. */
export function backdropPaint(backdrop: Backdrop, aspect: number): Paint {
  if (backdrop.kind === 'view') return view(backdrop.at)
  if (backdrop.kind === 'picture') return filled(backdrop.picture, aspect)
  const [r, g, b] = hexAtDepth(backdrop.colour, 32)
  return (_x, _y, out) => void out.set([r, g, b])
}

/** The stand-in, a flower pot right of the middle: its colour at a place of the frame, or false where it is not. */
export function standInAt(x: number, y: number, out: Float32Array): boolean {
  const rim = y >= 0.44 && y < 0.52
  const half = rim ? 0.115 : 0.1 - 0.06 * ((y - 0.52) / 0.4)
  const across = (x - 0.6) / half
  if (y < 0.44 || y > 0.92 || Math.abs(across) > 1) return false
  const shade = (0.95 - 0.45 * across * across) * (rim ? 1 : 0.88)
  out[0] = 0.72 * shade
  out[1] = 0.42 * shade
  out[2] = 0.3 * shade
  return true
}
