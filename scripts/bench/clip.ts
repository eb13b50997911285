/**
 * The fixed clips that benchmarks run on. The first: soft-edged moving shapes, a translucent bar, fine texture and
 * grain inside the solid parts; about a third of the frame is covered. The same codes on every machine.
 */
import { STRAIGHT, type Frame } from '../../core/frame/frame'

export const FRAMES = 48

interface Blob {
  x: number
  y: number
  r: number
  soft: number
  colour: readonly [number, number, number]
}

function blobsAt(t: number): Blob[] {
  const turn = 2 * Math.PI * t
  return [
    {
      x: 0.3 + 0.06 * Math.cos(turn),
      y: 0.38 + 0.08 * Math.sin(turn),
      r: 0.29,
      soft: 0.01,
      colour: [0.62, 0.34, 0.18]
    },
    {
      x: 0.66 - 0.07 * Math.sin(turn),
      y: 0.42 + 0.05 * Math.cos(turn),
      r: 0.27,
      soft: 0.004,
      colour: [0.2, 0.45, 0.3]
    },
    { x: 0.5 + 0.2 * Math.cos(turn + 2), y: 0.3, r: 0.07, soft: 0.06, colour: [0.9, 0.7, 0.25] }
  ]
}

/** Frame `index` of the clip at any size, 8 or 16 bits, straight. */
export function benchFrame(index: number, width = 1920, height = 1080, depth: 8 | 16 = 16): Frame {
  const full = depth === 8 ? 255 : 65535
  const samples = depth === 8 ? new Uint8Array(width * height * 4) : new Uint16Array(width * height * 4)
  const blobs = blobsAt(index / FRAMES)
  const barTop = Math.round(height * 0.78)
  const barBottom = Math.round(height * 0.92)
  let state = (index + 1) * 0x9e3779b1
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let [r, g, b, a] = [0, 0, 0, 0]
      for (const blob of blobs) {
        const dx = x / height - blob.x * (width / height)
        const dy = y / height - blob.y
        const distance = Math.sqrt(dx * dx + dy * dy) - blob.r
        const cover = Math.min(1, Math.max(0, 0.5 - distance / blob.soft))
        if (cover === 0) continue
        state = (Math.imul(state, 1664525) + 1013904223) | 0
        const grain = ((state >>> 16) / 65536 - 0.5) * 0.03
        const texture = 0.06 * Math.sin(x * 0.7 + blob.x * 40) * Math.sin(y * 0.9) + 0.05 * Math.sin((x + 2 * y) * 0.05)
        const under = a * (1 - cover)
        const alpha = cover + under
        r = ((blob.colour[0] + texture + grain) * cover + r * under) / alpha
        g = ((blob.colour[1] + texture + grain) * cover + g * under) / alpha
        b = ((blob.colour[2] + texture + grain) * cover + b * under) / alpha
        a = alpha
      }
      if (y >= barTop && y < barBottom && x > width * 0.06 && x < width * (0.5 + 0.3 * (index / FRAMES))) {
        const under = a * 0.4
        const alpha = 0.6 + under
        r = (0.09 * 0.6 + r * under) / alpha
        g = (0.36 * 0.6 + g * under) / alpha
        b = (0.3 * 0.6 + b * under) / alpha
        a = alpha
      }
      if (a === 0) continue
      const i = 4 * (y * width + x)
      const code = (v: number): number => Math.round(Math.min(1, Math.max(0, v)) * full)
      samples[i + 3] = code(a)
      if (samples[i + 3] === 0) continue
      samples[i] = code(r)
      samples[i + 1] = code(g)
      samples[i + 2] = code(b)
    }
  }
  return { width, height, depth, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

/**
 * A name strap that slides in: flat translucent bar, hard lettering, a soft shadow below; the rest is clear. Straight,
 * 16 bits.
 */
export function graphicFrame(index: number, width = 1920, height = 1080): Frame {
  const samples = new Uint16Array(width * height * 4)
  const slide = Math.round(width * 0.2 * (1 - Math.min(1, index / 20)) ** 3)
  const [left, right] = [Math.round(width * 0.06) - slide, Math.round(width * 0.48) - slide]
  const [top, bottom] = [Math.round(height * 0.76), Math.round(height * 0.9)]
  for (let y = top - 20; y < bottom + 60; y++) {
    for (let x = Math.max(0, left - 40); x < right + 60; x++) {
      const i = 4 * (y * width + x)
      if (x >= left && x < right && y >= top && y < bottom) {
        // strokes of letters: upright bars of several widths, in two lines
        const line = y > top + 30 && y < top + 80 ? 22 : y > top + 100 && y < top + 130 ? 13 : 0
        const ink = line > 0 && x > left + 50 && x < right - 90 && (x * 7 + (y >> 3)) % line < line * 0.3
        samples.set(ink ? [65535, 65535, 62000, 65535] : [6000, 23000, 18000, 39321], i)
        continue
      }
      const away = Math.hypot(Math.max(left - x, 0, x - right), Math.max(top + 16 - y, 0, y - bottom - 16))
      const shade = Math.round(26000 * Math.exp(-((away / 16) ** 2)))
      if (shade > 0) samples.set([0, 0, 0, shade], i)
    }
  }
  return { width, height, depth: 16, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

/** Solid everywhere, with grain of a camera's strength over slow shades, and alpha that wavers. Straight, 16 bits. */
export function fullFrame(index: number, width = 1920, height = 1080): Frame {
  const samples = new Uint16Array(width * height * 4)
  let state = (index + 1) * 0x9e3779b1
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i += 4) {
      state = (Math.imul(state, 1664525) + 1013904223) | 0
      const grain = ((state >>> 16) / 65536 - 0.5) * 3600
      const shade = 24000 + 14000 * Math.sin(x / 170 + index / 9) * Math.cos(y / 140)
      samples[i] = shade + 9000 + grain
      samples[i + 1] = shade + 2000 - grain
      samples[i + 2] = shade + grain * 0.7
      samples[i + 3] = 52000 + 13000 * Math.sin(x / 300 + y / 200)
    }
  }
  return { width, height, depth: 16, samples, alpha: STRAIGHT, transfer: 'srgb' }
}
