/** Pictures of the trade's material as the planes of any layout: what the library is given to encode. */
import type { Frame } from '../../core/frame/frame'
import { LAYOUTS, MATRICES, shapeOf, type Matrix, type Planes } from './pixels'

/** A frame of 16 bits as planes of a layout, in its codes. Chroma of fewer samples is that of the first it covers. */
export function planesFor(frame: Frame, layout: string, { matrix = 'bt601' as Matrix, full = false } = {}): Planes {
  const lies = LAYOUTS.get(layout)!
  const { width, height, samples: s } = frame
  const most = 2 ** lies.bits - 1
  const scale = 2 ** (lies.bits - 8)
  const [kr, kb] = MATRICES[matrix]
  const whole = full || lies.full
  const channels = [...(lies.packed ?? lies.planes!)].filter(channel => channel !== '_')
  const grey = !channels.includes('u')
  const valueOf = (channel: string, at: number): number => {
    const [r, g, b, a] = [0, 1, 2, 3].map(c => s[at + c]! / 65535) as [number, number, number, number]
    const luma = kr * r + (1 - kr - kb) * g + kb * b
    const [cb, cr] = [(b - luma) / (2 * (1 - kb)), (r - luma) / (2 * (1 - kr))]
    const chroma = (c: number): number => (whole ? 128 * scale + c * most : (128 + 224 * c) * scale)
    switch (channel) {
      case 'r':
        return r * most
      case 'g':
        return g * most
      case 'b':
        return b * most
      case 'a':
        return a * most
      case 'y':
        return grey || whole ? luma * most : (16 + 219 * luma) * scale
      default:
        return chroma(channel === 'u' ? cb : cr)
    }
  }
  return Object.fromEntries(
    channels.map(channel => {
      const shape = shapeOf(channel, width, height, lies)
      const few = channel === 'u' || channel === 'v'
      const [dx, dy] = few ? [lies.across ?? 0, lies.down ?? 0] : [0, 0]
      const samples = new Float64Array(shape.width * shape.height)
      for (let y = 0; y < shape.height; y++)
        for (let x = 0; x < shape.width; x++) {
          const at = 4 * (Math.min(height - 1, y << dy) * width + Math.min(width - 1, x << dx))
          samples[y * shape.width + x] = Math.min(most, Math.max(0, Math.round(valueOf(channel, at))))
        }
      return [channel, { ...shape, samples }]
    })
  )
}
