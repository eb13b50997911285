/** How particles are described. */
import { z } from 'zod'
import { HexColour } from '../../../../base/colour'
import { lacking, length, share, size } from '../../values'

/** Particles that are there at once at most. */
export const MOST_ALIVE = 4000

const spread = lacking(share, 0.3)

export const schema = z.object({
  kind: z.literal('particles'),
  /** Other numbers, other particles; the same number, the same ones everywhere. */
  seed: lacking(z.number().int().min(0).max(1_000_000), 1),
  form: lacking(z.enum(['soft', 'dot', 'square', 'star', 'streak']), 'soft'),
  /** How many come each second, and how long each lives. */
  rate: lacking(z.number().min(0.1).max(1000), 40),
  life: lacking(z.number().min(0.05).max(60), 2),
  /** How far lives, speeds and sizes differ, as a share of what they are. */
  differ: spread,
  /** Where they come from: a box about the element's place; of 0, its place. */
  width: lacking(size, 0),
  height: lacking(size, 0),
  /** Which way they go, in degrees clockwise from the right, and how far to both sides of it. */
  way: lacking(z.number().min(-360).max(360), -90),
  fan: lacking(z.number().min(0).max(180), 30),
  /** Pixels a second at first, and how much of its speed each loses in a second. */
  speed: lacking(size, 120),
  drag: lacking(z.number().min(0).max(20), 0),
  /** Pixels a second, more each second, downwards. */
  gravity: lacking(length, 0),
  /** How far it is blown about, in pixels. */
  turbulence: lacking(size.max(2000), 0),
  /** Across, at first and in the end. */
  size: lacking(size.max(1000), 12),
  sizeEnd: lacking(size.max(1000), 12),
  colour: lacking(HexColour, '#ffffff'),
  colourEnd: lacking(HexColour, '#ffffff'),
  /** Shares of its life in which each comes and goes. */
  fadeIn: lacking(share, 0.1),
  fadeOut: lacking(share, 0.4),
  /** Degrees a second that each turns by, either way. */
  spin: lacking(z.number().min(0).max(3600), 0),
  /** Whether they are there already as the element comes. */
  before: lacking(z.boolean(), false),
  /** Seconds after which all of it begins again, without a seam; 0 for never. */
  every: lacking(z.number().min(0).max(600), 0)
})
export type ParticlesLook = z.infer<typeof schema>
