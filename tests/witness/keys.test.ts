/**
 * Keys pulled from film that a real coder made: the shots whose truth is known, coded by the stranger's H.264 in 4:2:0
 * over seven frames of fresh noise, decoded by it, and keyed. What docs/keying.md says of them is held to these
 * figures.
 */
import { expect, test } from 'vitest'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { CODED, CODED_NOISE, CODED_RATES } from '../material/keys-coded'
import { filmedAs, keyed, keyFigures, keyShots } from '../material/keys'
import { testHost } from '../unit/support'
import { see, write, pictureTrack, type SeenPicture } from './library'
import { rgbaOf, smoothed, type Plane, type Planes } from './pixels'
import { planesFor } from './planes'

const host = await testHost()
const TAKES = 7

/** The mean of each two by two, as a camera's chroma is made. */
function halved({ width, height, samples }: Plane): Plane {
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)]
  const at = (x: number, y: number): number => samples[Math.min(height - 1, y) * width + Math.min(width - 1, x)]!
  const mean = (x: number, y: number): number => (at(x, y) + at(x + 1, y) + at(x, y + 1) + at(x + 1, y + 1)) / 4
  return {
    width: w,
    height: h,
    samples: Float64Array.from({ length: w * h }, (_, n) => Math.round(mean(2 * (n % w), 2 * Math.floor(n / w))))
  }
}

function coderPlanes(shot: Frame): Planes {
  const deep = { ...shot, depth: 16, samples: Uint16Array.from(shot.samples, v => v * 257) } as Frame
  const { y, u, v } = planesFor(deep, 'yuv444p', { matrix: 'bt709' })
  return { y: y!, u: halved(u!), v: halved(v!) }
}

function frameOf({ width, height, planes, lies }: SeenPicture): Frame {
  const whole = { y: planes.y!, u: smoothed(planes.u!, width, height), v: smoothed(planes.v!, width, height) }
  const rgba = rgbaOf(whole, { width, height }, { ...lies, across: 0, down: 0 }, { matrix: 'bt709' })
  const samples = Uint8Array.from(rgba, v => Math.round(255 * Math.min(1, Math.max(0, v))))
  return { width, height, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

test.each(CODED)('$shot, coded', async ({ shot, figures }) => {
  const { truth } = keyShots.find(each => each.name === shot)!
  const takes = Array.from({ length: TAKES }, (_, take) => filmedAs(truth, { name: '', noise: CODED_NOISE }, take))
  const { width, height } = takes[0]!
  for (const [n, crf] of CODED_RATES.entries()) {
    const file = write({
      container: 'mp4',
      name: 'film.mp4',
      codec: 'libx264',
      layout: 'yuv420p',
      width,
      height,
      rate: [25, 1],
      pictures: takes.map(coderPlanes),
      // its hand-written code reads beyond its input, and so codes the same pictures otherwise from run to run
      codecOptions: { crf, 'x264-params': 'threads=1:lookahead-threads=1:no-asm=1' },
      colour: { matrix: 1, primaries: 1, transfer: 1, range: 1 }
    })
    const { pictures } = pictureTrack(see(file, 'film.mp4'))
    expect(pictures).toHaveLength(TAKES)
    const settings = { screen: '#2ba347', edges: 'beside', noise: 'measured', chroma: 'led' }
    const found = await keyed(pictures.map(frameOf), [{ kind: 'chroma-key', settings }], host)
    const { softAlpha, haze } = keyFigures(found, truth)
    expect(Math.abs(softAlpha - figures[n]!.softAlpha)).toBeLessThan(0.002)
    expect(Math.abs(haze - figures[n]!.haze)).toBeLessThan(0.002)
  }
})
