/** What becomes of stored samples on their way: nothing, ProRes, or 4:2:0 film coding. Decoders are not Pour's own. */
import sharp from 'sharp'
import type { Deliverable } from '../../core/media/formats/deliverable'
import { withDepth } from '../../core/frame/depth'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { wholeForm } from '../../core/media/formats/form'
import { formatById } from '../../core/open/registry'
import { optionValues } from '../../core/base/settings/field'
import type { Host } from '../../core/frame/host'

export interface Coding {
  name: string
  depths: readonly (8 | 16)[]
  /** Codes that may change on the way. */
  loss: boolean
  through(frames: Frame[], host: Host, alpha: AlphaMode): Promise<Frame[]>
}

/** Colour as an intra frame of VP8, which is 4:2:0; alpha kept apart, and exact. */
async function filmed(frame: Frame): Promise<Frame> {
  const { width, height, samples } = frame
  const rgb = new Uint8Array(width * height * 3)
  for (let i = 0, o = 0; i < samples.length; i += 4, o += 3) rgb.set(samples.subarray(i, i + 3) as Uint8Array, o)
  const coded = await sharp(rgb, { raw: { width, height, channels: 3 } })
    .webp({ quality: 90 })
    .toBuffer()
  const back = await sharp(coded).removeAlpha().raw().toBuffer()
  const result = new Uint8Array(samples.length)
  for (let i = 0, o = 0; i < result.length; i += 4, o += 3) {
    for (let c = 0; c < 3; c++) result[i + c] = back[o + c]!
    result[i + 3] = samples[i + 3]!
  }
  return { ...frame, samples: result }
}

/** Through Pour's ProRes writer at its defaults, and back through the decoder that a proof uses. */
async function prores(frames: Frame[], host: Host, alpha: AlphaMode): Promise<Frame[]> {
  const format = formatById('quicktime-prores-4444')
  const [{ width, height }] = frames as [Frame]
  const form = wholeForm(16, alpha)
  const options = optionValues(format.options, {})
  const shape: Deliverable = {
    width,
    height,
    frames: frames.length,
    rate: [24, 1] as [number, number],
    ...form,
    pixelAspect: [1, 1],
    fields: 'progressive',
    sound: null,
    options,
    names: []
  }
  const reader = await format.readBack!(shape, host)
  const result: Frame[] = []
  for (const frame of frames) {
    const wide = { ...withDepth(frame, 16, host.kernels), alpha }
    const read = await reader.frame(await format.encode(host, wide, shape, null))
    result.push({ ...withDepth(read, 16, host.kernels), alpha: STRAIGHT })
  }
  await reader.close()
  return result
}

export const codings: readonly Coding[] = [
  { name: 'as it is', depths: [8, 16], loss: false, through: frames => Promise.resolve(frames) },
  { name: 'after ProRes', depths: [8, 16], loss: true, through: prores },
  { name: 'after 4:2:0 coding', depths: [8], loss: true, through: frames => Promise.all(frames.map(filmed)) }
]
