/** Colours of BT.2020 with PQ and HLG: the stranger is told the matrix they are coded with, and comes to them by it. */
import { expect, test } from 'vitest'
import { formatById } from '../../core/open/registry'
import { newOutlet } from '../../core/job/outlet/outlet'
import { encodePng } from '../../core/media/pictures/png/encode'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { takeIn } from '../../core/run/intake/intake'
import type { SourceSpec } from '../../core/source/source'
import { bytesFile } from '../unit/support'
import { codesOf, pictureTrack, see } from './library'
import { host, poured } from './pour-all'

/** Broad fields of strong colours, which a codec keeps to a code or two: what is off then is the matrix. */
const frames: Frame[] = [0, 1, 2].map(n => {
  const samples = new Uint16Array(4 * 64 * 48)
  for (let y = 0, i = 0; y < 48; y++)
    for (let x = 0; x < 64; x++, i += 4) {
      const field = (x >> 4) + 4 * (y >> 4) + n
      samples.set([(field * 7919) % 60000, (field * 31337) % 60000, (field * 104729) % 60000, 65535], i)
    }
  return { width: 64, height: 48, depth: 16, samples, alpha: STRAIGHT, transfer: 'srgb' }
})

async function sourceWith(tags: readonly [number, number, number]): Promise<SourceSpec> {
  const files = frames.map((frame, n) => bytesFile(`wide_${n + 1}.png`, encodePng(host, frame, { tags })))
  const { found } = await takeIn(files, host)
  const { spec } = found[0]!
  return {
    ...spec,
    id: `wide ${tags.join('-')}`,
    interpretation: { ...spec.interpretation, alpha: { mode: 'straight' }, rate: [25, 1], rateFrom: 'asked' }
  }
}

test.each([
  ['quicktime-prores-4444', [9, 16, 0], 9, 'bt2020'],
  ['quicktime-prores-4444', [9, 18, 0], 9, 'bt2020'],
  ['mxf-prores-4444', [9, 16, 0], 9, 'bt2020'],
  ['quicktime-prores-4444', [12, 13, 0], 1, 'bt709'],
  ['quicktime-prores-4444-xq', [1, 13, 0], 1, 'bt709']
] as const)('%s of %j is said to be in matrix %i, and is', async (id, tags, matrix, weights) => {
  const outlet = { ...newOutlet('o', formatById(id)), options: { fill: false } }
  const delivery = await poured(await sourceWith(tags), outlet)
  expect(delivery.report.verdict).not.toBe('broken')
  const track = pictureTrack(see(delivery.files[0]!.bytes, delivery.files[0]!.name))
  expect(track.pictures[0]!.colour.matrix).toBe(matrix)
  if (tags[0] !== 1) expect(track.pictures[0]!.colour.primaries).toBe(tags[0])
  // a wrong matrix is many codes off, the codec one or two
  const own = codesOf(track.pictures[1]!, 16, { matrix: weights }) as Uint16Array
  const { samples } = frames[1]!
  let sum = 0
  for (let i = 0; i < own.length; i++) if (i % 4 < 3) sum += Math.abs(own[i]! - samples[i]!)
  expect(sum / (0.75 * own.length) / 257).toBeLessThan(1.5)
  const wrong = codesOf(track.pictures[1]!, 16, { matrix: weights === 'bt709' ? 'bt2020' : 'bt709' }) as Uint16Array
  let off = 0
  for (let i = 0; i < own.length; i++) if (i % 4 < 3) off += Math.abs(wrong[i]! - samples[i]!)
  expect(off).toBeGreaterThan(2 * sum)
})
