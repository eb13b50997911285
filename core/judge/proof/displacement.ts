/**
 * Frames that are right but in the wrong place: dropped, doubled, swapped, alpha out of step with colour, pictures
 * shifted by a line. Asked only about frames that differ far from what was due, so that good deliveries pay nothing for
 * it.
 */
import { withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import type { Frame } from '../../frame/frame'
import { coded } from '../../frame/transfer'
import { sayNumbers } from '../../base/natural'
import type { Kernels } from '../../frame/kernels/kernels'
import type { Finding } from '../../source/source'

const COLUMNS = 32
const ROWS = 18

/** A frame is taken for another when it is this much nearer to it than to its own. */
const NEARER = 0.25

/** Means over a grid of cells, in codes of 255: four values a cell, colour premultiplied on black, then alpha. */
export type Signature = Float32Array

/** The signature of a frame of any depth. Small codec noise is averaged away; time is linear in its pixels. */
export function signatureOf(frame: Frame, kernels: Kernels): Signature {
  const { width, height } = frame
  const flat = withAlphaMode(
    withDepth(coded(frame, kernels), 16, kernels),
    { mode: 'premultiplied', matte: '#000000' },
    kernels
  )
  const sums = new Float64Array(COLUMNS * ROWS * 4)
  const counts = new Float64Array(COLUMNS * ROWS)
  const columnOf = Uint8Array.from({ length: width }, (_, x) => Math.floor((x * COLUMNS) / width))
  for (let y = 0, i = 0; y < height; y++) {
    const row = Math.floor((y * ROWS) / height) * COLUMNS
    for (let x = 0; x < width; x++, i += 4) {
      const cell = row + columnOf[x]!
      counts[cell]!++
      for (let c = 0; c < 4; c++) sums[4 * cell + c]! += flat.samples[i + c]!
    }
  }
  return Float32Array.from(sums, (sum, i) => sum / Math.max(1, counts[i >> 2]!) / 257)
}

/** Signatures at least this far apart show motion. */
export const MOVES = 0.002

/** Mean distance of two signatures in codes; of alpha alone, if asked. */
export function distance(a: Signature, b: Signature, alphaOnly = false): number {
  let sum = 0
  let count = 0
  for (let i = alphaOnly ? 3 : 0; i < a.length; i += alphaOnly ? 4 : 1) {
    sum += Math.abs(a[i]! - b[i]!)
    count++
  }
  return sum / count
}

/**
 * The frame due that `found` shows, if it is clearly another than `own`; of several alike, the one nearest to its own
 * place.
 */
function standsFor(found: Signature, due: readonly Signature[], own: number, alphaOnly = false): number | null {
  const itself = own < due.length ? distance(found, due[own]!, alphaOnly) : Infinity
  let best = -1
  let least = Infinity
  for (let j = 0; j < due.length; j++) {
    const d = distance(found, due[j]!, alphaOnly)
    if (d < least - 1e-6 || (d < least + 1e-6 && Math.abs(j - own) < Math.abs(best - own))) {
      best = j
      least = d
    }
  }
  return best !== own && least <= itself * NEARER && least < 2 ? best : null
}

/**
 * Delivered frames that show other frames than were due there: by index from 0, which, as a whole and in alpha alone.
 */
export interface Displaced {
  frame: number
  shows: number | null
  alphaOf: number | null
}

/** What frames that are far off show: the frame of `due`, from 0, whose picture or alpha it is, or null. */
export function displaced(found: ReadonlyMap<number, Signature>, due: readonly Signature[]): Displaced[] {
  return [...found].map(([frame, signature]) => {
    const shows = standsFor(signature, due, frame)
    return { frame, shows, alphaOf: shows === null ? standsFor(signature, due, frame, true) : null }
  })
}

/**
 * A shift of the whole picture in pixels, right and down, and how well it explains the frame: miss with it over miss
 * without.
 */
export interface Shift {
  x: number
  y: number
  share: number
}

const REACH = 2

/** The shift that explains the found frame best. Both of one size. */
export function shiftOf(due: Frame, foundFrame: Frame, kernels: Kernels): Shift {
  const { width, height } = due
  const a = withDepth(coded(due, kernels), 16, kernels).samples
  const b = withDepth(coded(foundFrame, kernels), 16, kernels).samples
  const every = Math.max(1, Math.floor(height / 270))
  const missAt = (dx: number, dy: number): number => {
    let sum = 0
    for (let y = REACH; y < height - REACH; y += every) {
      for (let x = REACH; x < width - REACH; x++) {
        const i = 4 * (y * width + x)
        const j = 4 * ((y - dy) * width + x - dx)
        if (b[i + 3] === 0 && a[j + 3] === 0) continue
        for (let c = 0; c < 4; c++) sum += Math.abs(b[i + c]! - a[j + c]!)
      }
    }
    return sum
  }
  const still = missAt(0, 0)
  let best: Shift = { x: 0, y: 0, share: 1 }
  for (let y = -REACH; y <= REACH; y++) {
    for (let x = -REACH; x <= REACH; x++) {
      const share = still > 0 ? missAt(x, y) / still : 1
      if (share < best.share) best = { x, y, share }
    }
  }
  return best
}

const number = (index: number): string => String(index + 1)

function fault(id: string, frames: number[], sentence: string): Finding {
  return { id, severity: 'fault', frames: frames.map(i => i + 1), sentence }
}

/** Frames from `at` to the end that all stand `by` frames off: what a dropped or doubled frame leaves behind. */
function runToEnd(moved: readonly { frame: number; shows: number }[], last: number): { at: number; by: number } | null {
  const tail = moved.at(-1)
  if (!tail || tail.frame !== last) return null
  const by = tail.shows - tail.frame
  let first = moved.length - 1
  while (first > 0 && moved[first - 1]!.shows - moved[first - 1]!.frame === by) first--
  return first === 0 ? { at: moved[0]!.frame, by } : null
}

/** What the displacements mean, in words. `delivered` and `due` are counts of frames. */
export function sayDisplaced(found: readonly Displaced[], delivered: number, due: number): Finding[] {
  const moved = found
    .filter((d): d is Displaced & { shows: number } => d.shows !== null)
    .sort((a, b) => a.frame - b.frame)
  const findings: Finding[] = []
  const at = new Map(moved.map(d => [d.frame, d.shows]))
  const swapped = moved.filter(d => at.get(d.shows) === d.frame)
  const run = runToEnd(moved, delivered - 1)
  if (moved.length > 0 && swapped.length === moved.length) {
    const pairs = swapped.filter(d => d.frame < d.shows)
    findings.push(
      fault(
        'frames-swapped',
        swapped.map(d => d.frame),
        `${pairs.map(d => `Frames ${number(d.frame)} and ${number(d.shows)}`).join('; ')} are swapped.`
      )
    )
  } else if (run && run.by > 0) {
    findings.push(
      fault(
        'frame-missing',
        moved.map(d => d.frame),
        `${run.by === 1 ? `Frame ${number(run.at)} is missing` : `Frames ${number(run.at)} to ${number(run.at + run.by - 1)} are missing`}; ` +
          `everything after comes ${run.by === 1 ? 'one frame' : `${run.by} frames`} early.`
      )
    )
  } else if (run && run.by < 0) {
    findings.push(
      fault(
        'frame-doubled',
        moved.map(d => d.frame),
        `Frame ${number(run.at - 1)} is doubled; everything after comes ` +
          `${run.by === -1 ? 'one frame' : `${-run.by} frames`} late.`
      )
    )
  } else if (moved.length > 0) {
    const held = moved.filter(d => d.shows === d.frame - 1)
    if (held.length === moved.length)
      findings.push(
        fault(
          'frame-doubled',
          held.map(d => d.frame),
          `${held.length === 1 ? 'Frame' : 'Frames'} ${sayNumbers(held.map(d => d.frame + 1))} ` +
            `${held.length === 1 ? 'is' : 'are'} replaced by the frame before, shown twice.`
        )
      )
    else
      findings.push(
        fault(
          'wrong-order',
          moved.map(d => d.frame),
          `The order is wrong: ${moved
            .slice(0, 4)
            .map(d => `frame ${number(d.frame)} shows what belongs in frame ${number(d.shows)}`)
            .join(', ')}${moved.length > 4 ? `, and ${moved.length - 4} more` : ''}.`
        )
      )
  } else if (delivered < due && found.length === 0) {
    findings.push(
      fault(
        'frame-missing',
        [],
        `${due - delivered === 1 ? `The last frame, ${due}, is` : `The last ${due - delivered} frames are`} missing.`
      )
    )
  }
  const late = found.filter((d): d is Displaced & { alphaOf: number } => d.alphaOf !== null)
  if (late.length > 0) {
    const steps = new Set(late.map(d => d.frame - d.alphaOf))
    const [by] = steps
    const how =
      steps.size === 1 && by
        ? `comes ${Math.abs(by) === 1 ? 'one frame' : `${Math.abs(by)} frames`} ${by > 0 ? 'late' : 'early'}`
        : 'belongs to other frames'
    findings.push(
      fault(
        'alpha-out-of-step',
        late.map(d => d.frame),
        `Alpha ${how} against colour, in ${late.length} of ${due} frames: the cut-out trails the picture.`
      )
    )
  }
  return findings
}

/** In words, if one shift explains every frame that was asked. */
export function sayShift(shifts: readonly Shift[], frames: readonly number[]): Finding | null {
  const [first] = shifts
  if (
    !first ||
    !shifts.every(s => s.x === first.x && s.y === first.y && s.share < 0.2) ||
    (first.x === 0 && first.y === 0)
  )
    return null
  const part = (by: number, one: string, forward: string, back: string): string =>
    by === 0 ? '' : `${Math.abs(by)} ${one}${Math.abs(by) === 1 ? '' : 's'} ${by > 0 ? forward : back}`
  return fault(
    'picture-shifted',
    [...frames],
    `The picture sits ${[part(first.y, 'line', 'too low', 'too high'), part(first.x, 'pixel', 'too far right', 'too far left')].filter(Boolean).join(' and ')}.`
  )
}
