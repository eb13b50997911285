/** Scaling, on premultiplied values: what is scaled over any backdrop is what is scaled and then laid over it. */
import { clamp01, type Picture } from './picture'

function lanczos(x: number): number {
  if (x === 0) return 1
  if (Math.abs(x) >= 3) return 0
  const p = Math.PI * x
  return (3 * Math.sin(p) * Math.sin(p / 3)) / (p * p)
}

/** For each place of the result, where its weights begin and what they are. */
function weights(from: number, to: number): { first: number; share: Float32Array }[] {
  const ratio = from / to
  const widen = Math.max(1, ratio)
  return Array.from({ length: to }, (_, n) => {
    const centre = (n + 0.5) * ratio - 0.5
    const first = Math.ceil(centre - 3 * widen)
    const share = Float32Array.from({ length: Math.floor(centre + 3 * widen) - first + 1 }, (_, k) => lanczos((first + k - centre) / widen))
    const sum = share.reduce((a, b) => a + b, 0)
    return { first, share: share.map(s => s / sum) }
  })
}

function along(input: Float32Array, length: number, lines: number, step: number, lineStep: number, to: number, outStep: number, outLine: number): Float32Array {
  const output = new Float32Array(to * lines * 4)
  const table = weights(length, to)
  for (let line = 0; line < lines; line++) {
    for (let n = 0; n < to; n++) {
      const { first, share } = table[n]!
      let [r, g, b, a] = [0, 0, 0, 0]
      for (let k = 0; k < share.length; k++) {
        const w = share[k]!
        const i = line * lineStep + Math.max(0, Math.min(length - 1, first + k)) * step
        r += input[i]! * w
        g += input[i + 1]! * w
        b += input[i + 2]! * w
        a += input[i + 3]! * w
      }
      const o = line * outLine + n * outStep
      output[o] = r
      output[o + 1] = g
      output[o + 2] = b
      output[o + 3] = a
    }
  }
  return output
}

export function scaled(picture: Picture, width: number, height: number, filter: 'lanczos' | 'nearest'): Picture {
  if (width === picture.width && height === picture.height) return picture
  if (filter === 'nearest') {
    const rgba = new Float32Array(width * height * 4)
    for (let y = 0; y < height; y++) {
      const v = Math.min(picture.height - 1, Math.floor(((y + 0.5) * picture.height) / height))
      for (let x = 0; x < width; x++) {
        const u = Math.min(picture.width - 1, Math.floor(((x + 0.5) * picture.width) / width))
        const i = 4 * (v * picture.width + u)
        for (let c = 0; c < 4; c++) rgba[4 * (y * width + x) + c] = picture.rgba[i + c]!
      }
    }
    return { width, height, rgba }
  }
  const multiplied = picture.rgba.slice()
  for (let i = 0; i < multiplied.length; i += 4) for (let c = 0; c < 3; c++) multiplied[i + c]! *= multiplied[i + 3]!
  const across = along(multiplied, picture.width, picture.height, 4, 4 * picture.width, width, 4, 4 * width)
  const rgba = along(across, picture.height, width, 4 * width, 4, height, 4 * width, 4)
  for (let i = 0; i < rgba.length; i += 4) {
    // colour is divided by alpha as it rings, beyond solid too, so that it stays what it was; then alpha is cut off
    const a = rgba[i + 3]!
    for (let c = 0; c < 3; c++) rgba[i + c] = a > 1e-8 ? clamp01(rgba[i + c]! / a) : 0
    // what rings below a thousandth of a code of 16 bits is nothing
    rgba[i + 3] = a < 1e-8 ? 0 : clamp01(a)
  }
  return { width, height, rgba }
}
