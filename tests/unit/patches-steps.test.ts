/**
 * Patches of known colour under every label, through steps whose result is known: codes under a label stay codes under
 * it, light stays light however bright or negative, and each is held against maths written apart from the core.
 */
import { describe, expect, test } from 'vitest'
import { sameTags } from '../../core/frame/colour-tags'
import { formatById } from '../../core/open/registry'
import { withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { encodePng } from '../../core/media/pictures/png/encode'
import { pour } from '../../core/run/pour/pour'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep } from '../../core/prepare/preparation'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { preparedSpec, type FilesSpec, type SourceSpec } from '../../core/source/source'
import { inlinePool } from '../../platform/node/pool'
import {
  codedPatches,
  HEIGHT,
  LABELS,
  middleOf,
  patched,
  patches,
  srgb,
  srgbCode,
  WIDTH,
  type Label
} from '../material/patches'
import { memoryFiles } from './memory-files'
import { bytesFile, deliverable, testHost } from './support'

const host = await testHost()
const pool = inlinePool(host)

type Colour = readonly number[]

interface Case {
  kind: string
  settings?: Record<string, unknown>
  /** Straight colour and alpha as they come out; `light` says whether they are light. */
  colour?: (colour: Colour, light: boolean) => Colour
  /** Where a pixel lies afterwards. */
  place?: (x: number, y: number) => [x: number, y: number]
}

const alpha =
  (change: (a: number) => number) =>
  ([r, g, b, a]: Colour): Colour => [r!, g!, b!, change(a!)]

const between = (v: number): number => Math.min(1, Math.max(0, v))
const BELOW = [0x40 / 255, 0x60 / 255, 0x80 / 255]

/** What is defined on codes, of light by way of its codes; what is darker than black has no part in it and stays. */
const onCodes =
  (change: (colour: Colour) => Colour) =>
  (colour: Colour, light: boolean): Colour => {
    if (!light) return change(colour)
    const codes = colour.slice(0, 3).map(srgbCode)
    const [r, g, b, a] = change([...codes.map(v => Math.max(0, v)), colour[3]!])
    return [...[r!, g!, b!].map((v, c) => srgb(v + Math.min(0, codes[c]!))), a!]
  }

/** A screen's light taken off green, held to the larger of the others, brightness as it was. */
function withoutGreen([r, g, b, a]: Colour): Colour {
  const excess = g! - Math.max(r!, b!)
  if (excess <= 0) return [r!, g!, b!, a!]
  const lost = 0.7152 * excess
  return [r! + lost, g! - excess + lost, b! + lost, a!]
}

const CASES: readonly Case[] = [
  { kind: 'alpha-opacity', settings: { to: 50 }, colour: alpha(a => a / 2) },
  { kind: 'alpha-levels', settings: { low: 10, high: 90, middle: 1 }, colour: alpha(a => between((a - 0.1) / 0.8)) },
  { kind: 'alpha-levels', settings: { low: 0, high: 100, middle: 2 }, colour: alpha(a => Math.sqrt(a)) },
  { kind: 'alpha-invert', colour: alpha(a => 1 - a) },
  { kind: 'alpha-threshold', settings: { at: 60 }, colour: alpha(a => (a >= 0.6 ? 1 : 0)) },
  { kind: 'alpha-full-range', colour: alpha(a => between((255 * a - 16) / 219)) },
  { kind: 'alpha-haze', settings: { below: 30 }, colour: alpha(a => (a <= 0.3 ? 0 : a)) },
  { kind: 'clear-to-black' },
  { kind: 'edge-fill', settings: { reach: 2 } },
  { kind: 'spill', settings: { channel: 'green', held: 'larger', amount: 100 }, colour: onCodes(withoutGreen) },
  {
    kind: 'flatten',
    settings: { colour: '#406080' },
    colour: ([r, g, b, a], light) => [
      ...[r!, g!, b!].map((v, c) => v * a! + (light ? srgb(BELOW[c]!) : BELOW[c]!) * (1 - a!)),
      1
    ]
  },
  { kind: 'flip', settings: { way: 'across' }, place: (x, y) => [WIDTH - 1 - x, y] },
  { kind: 'rotate', settings: { turn: '90' }, place: (x, y) => [HEIGHT - 1 - y, x] },
  { kind: 'turn', settings: { by: 90, whole: true }, place: (x, y) => [HEIGHT - 1 - y, x] },
  { kind: 'crop', settings: { box: { x: 2, y: 1, width: 60, height: 30 } }, place: (x, y) => [x - 2, y - 1] },
  { kind: 'pad', settings: { left: 3, top: 5, right: 0, bottom: 1 }, place: (x, y) => [x + 3, y + 5] },
  {
    kind: 'place',
    settings: { width: 100, height: 80, corner: 'top-left', margin: 7 },
    place: (x, y) => [x + 7, y + 7]
  },
  { kind: 'scale', settings: { by: 300, filter: 'smooth' }, place: (x, y) => [3 * x + 1, 3 * y + 1] },
  { kind: 'scale', settings: { by: 200, filter: 'nearest', space: 'light' }, place: (x, y) => [2 * x, 2 * y] },
  { kind: 'depth', settings: { bits: '32' } }
]

const nameOf = ({ kind, settings }: Case): string => `${kind} ${JSON.stringify(settings ?? {})}`

async function madeOf(source: SourceSpec, { kind, settings }: Case, format: string): Promise<[Frame, FilesSpec]> {
  const reference = preparedSpec(source, [newStep('s', stepKindById(kind), settings ?? {})], {})
  const opened = await openSource(reference, host)
  const { facts } = opened
  await opened.close()
  const row = formatById(format)
  const plan = planPour(facts, { ...newOutlet('o', row), depth: row.depths.at(-1)!.depth }, null)
  const held = memoryFiles(row, plan.fileName)
  await pour({ source: reference, plan, target: held.target }, { host, pool })
  const found = specAsFound(`made ${Math.random()}`, 'made', row.id, held.files())
  const delivered: FilesSpec = { ...found, interpretation: { ...found.interpretation, alpha: plan.due.alpha } }
  const file = await openSource(delivered, host)
  const frame = await file.frame(0)
  await file.close()
  return [frame, delivered]
}

const asSource = (found: FilesSpec): SourceSpec => ({
  ...found,
  interpretation: { ...found.interpretation, rate: [24, 1], rateFrom: 'asked' }
})

/** Straight floats in whatever transfer the file has. */
const straight = (frame: Frame): Float32Array =>
  withDepth(withAlphaMode(frame, STRAIGHT, host.kernels), 32, host.kernels).samples as Float32Array

/** Colour of a patch where it lies in what was made. */
function patchOf(frame: Frame, rgba: Float32Array, { place }: Case, n: number): number[] {
  const [x, y] = place ? place(...middleOf(n)) : middleOf(n)
  const i = 4 * (y * frame.width + x)
  return [0, 1, 2, 3].map(c => rgba[i + c]!)
}

const coded = (label: Label): SourceSpec =>
  asSource(
    specAsFound(`patches ${Math.random()}`, 'patches', 'png-sequence', [
      bytesFile('patches_0001.png', encodePng(host, codedPatches, label.tags ? { tags: label.tags } : {}))
    ])
  )

describe.each(CASES.map(each => [nameOf(each), each] as const))('%s', (_, step) => {
  test.each(LABELS.map(label => [label.name, label] as const))('codes under %s', async (_, label) => {
    for (const format of ['png-sequence', 'exr-sequence']) {
      const [made, delivered] = await madeOf(coded(label), step, format)
      const rgba = straight(made)
      for (const [n, patch] of patches.entries()) {
        const due = step.colour ? step.colour(patch, false) : patch
        const found = patchOf(made, rgba, step, n)
        // alpha of 16 bits in half floats has 7,169 levels
        expect(Math.abs(found[3]! - due[3]!), `alpha of ${n}`).toBeLessThan(format === 'exr-sequence' ? 5e-4 : 1e-4)
        if (due[3]! < 0.2) continue
        const light = format === 'exr-sequence' ? label.light(due.slice(0, 3)) : due
        for (let c = 0; c < 3; c++) {
          const room = format === 'exr-sequence' ? 0.004 * Math.abs(light[c]!) + 2e-4 : 2e-4
          expect(Math.abs(found[c]! - light[c]!), `${format}, ${n}, ${c}`).toBeLessThan(room)
        }
      }
      const opened = await openSource(delivered, host)
      // what is light says its primaries, what is codes the whole label
      if (format === 'exr-sequence') expect(opened.facts.tags?.[0] ?? 1).toBe(label.tags?.[0] ?? 1)
      else if (label.tags) expect(sameTags(opened.facts.tags, label.tags)).toBe(true)
      await opened.close()
    }
  })

  test('light from below 0 to 10,000 cd/m2', async () => {
    // reference white is 203 cd/m2
    const nits = [0.1, 1, 10, 100, 203, 1000, 4000, 10000].map(v => v / 203)
    const colours: Colour[] = [
      ...nits.map(v => [v, v, v, 1]),
      ...nits.map(v => [v, v / 2, v / 4, 0.5]),
      [-0.2, 0.3, 0.1, 1],
      [0.4, -0.05, -0.01, 0.5],
      [0.18, 0.18, 0.18, 1],
      [0.004, 0.003, 0.002, 0.75],
      [4, 0.1, 0.02, 0.25],
      [0, 0, 0, 0]
    ]
    const light: Frame = {
      width: WIDTH,
      height: HEIGHT,
      depth: 32,
      samples: patched(colours),
      alpha: STRAIGHT,
      transfer: 'linear'
    }
    const lit = withAlphaMode(light, { mode: 'premultiplied', matte: '#000000' }, host.kernels)
    const shape = { ...deliverable(lit, 1, { rate: [24, 1] }), options: { samples: 'float', compression: 'zip' } }
    const bytes = await formatById('exr-sequence').encode(host, lit, shape, null)
    const source = specAsFound(`light ${Math.random()}`, 'light', 'exr-sequence', [bytesFile('light_0001.exr', bytes)])
    const [made] = await madeOf(asSource(source), step, 'exr-sequence')
    const rgba = straight(made)
    for (const [n, colour] of colours.entries()) {
      const due = step.colour ? step.colour(colour, true) : colour
      const found = patchOf(made, rgba, step, n)
      expect(Math.abs(found[3]! - due[3]!), `alpha of ${n}`).toBeLessThan(5e-4)
      if (due[3]! < 0.2) continue
      for (let c = 0; c < 3; c++)
        expect(Math.abs(found[c]! - due[c]!), `${n}, ${c}`).toBeLessThan(0.002 * Math.abs(due[c]!) + 2e-4)
    }
  })
})
