/** Looking at one frame: everything a later judgement needs, small enough to travel and to be summed over the clip. */
import { codesToHex, type HexColour } from '../colour'
import { fullCode, type Frame, type Samples } from '../frame/frame'
import { collectPairs, type PairSums } from './pairs'

export interface Look {
  width: number
  height: number
  /** Pixels by alpha, in 256 bins of the full range. */
  histogram: number[]
  clear: number
  partial: number
  solid: number
  /** Lowest and highest alpha, 0 to 1. */
  least: number
  most: number
  /** One bit for each alpha code of 16 bits (or of 8, times 257) that occurs. */
  levels: Uint8Array
  /** Samples of a 16-bit frame that are no 8-bit code times 257. */
  fine: number
  /** The colour where alpha is 0, if there is only one. */
  clearColour: HexColour | null
  /** Whether colour that is not constant lies under clear pixels. */
  clearPicture: boolean
  /** Pixels whose colour exceeds their alpha: impossible when premultiplied on black. */
  excess: number
  /** Pixels darker than the white left over by their alpha: impossible when premultiplied on white. */
  deficit: number
  /** The commonest colour of the border, and the share of all pixels that have exactly it with full alpha. */
  border: { colour: HexColour; share: number }
  pairs: PairSums
  /** Two 32-bit sums of all samples: equal for equal frames. */
  fingerprint: string
}

function fingerprint(samples: Samples): string {
  const words = new Uint32Array(samples.buffer, samples.byteOffset, samples.byteLength >> 2)
  let a = 0x811c9dc5
  let b = 0x9e3779b9
  for (let i = 0; i < words.length; i++) {
    a = Math.imul(a ^ words[i]!, 0x01000193)
    b = Math.imul((b << 5) ^ (b >>> 27) ^ words[i]!, 0x85ebca6b)
  }
  return (a >>> 0).toString(16).padStart(8, '0') + (b >>> 0).toString(16).padStart(8, '0')
}

/** The commonest exact colour of the outermost pixels, and how much of the picture is exactly that and solid. */
function borderColour(frame: Frame, toByte: number): Look['border'] {
  const { width, height, samples } = frame
  const counts = new Map<string, { at: number; count: number }>()
  const visit = (x: number, y: number): void => {
    const at = 4 * (y * width + x)
    const key = `${samples[at]},${samples[at + 1]},${samples[at + 2]}`
    const entry = counts.get(key)
    if (entry) entry.count++
    else counts.set(key, { at, count: 1 })
  }
  for (let x = 0; x < width; x++) {
    visit(x, 0)
    visit(x, height - 1)
  }
  for (let y = 0; y < height; y++) {
    visit(0, y)
    visit(width - 1, y)
  }
  let best = { at: 0, count: 0 }
  for (const entry of counts.values()) if (entry.count > best.count) best = entry
  const [r, g, b] = [samples[best.at]!, samples[best.at + 1]!, samples[best.at + 2]!]
  const full = fullCode(frame.depth)
  let same = 0
  for (let i = 0; i < samples.length; i += 4) if (samples[i] === r && samples[i + 1] === g && samples[i + 2] === b && samples[i + 3] === full) same++
  return { colour: codesToHex([r * toByte, g * toByte, b * toByte]), share: same / (width * height) }
}

/** Examines one frame as it is stored. Time and memory are linear in its pixels. */
export function lookAt(frame: Frame): Look {
  const { samples, width, height, depth } = frame
  const full = fullCode(depth)
  const toByte = 255 / full
  const histogram = new Array<number>(256).fill(0)
  const levels = new Uint8Array(8192)
  let [clear, solid, fine, excess, deficit] = [0, 0, 0, 0, 0]
  let least = full
  let most = 0
  let clearAt = -1
  let clearSpread = 0
  const slack = depth === 8 ? 1 : full / 255
  for (let i = 0; i < samples.length; i += 4) {
    const a = samples[i + 3]!
    const code = depth === 8 ? a * 257 : depth === 16 ? a : Math.max(0, Math.min(65535, Math.round(a * 65535)))
    histogram[code >> 8]!++
    levels[code >> 3]! |= 1 << (code & 7)
    if (a < least) least = a
    if (a > most) most = a
    const r = samples[i]!
    const g = samples[i + 1]!
    const b = samples[i + 2]!
    if (a <= 0) {
      clear++
      if (clearAt < 0) clearAt = i
      else clearSpread = Math.max(clearSpread, Math.abs(r - samples[clearAt]!), Math.abs(g - samples[clearAt + 1]!), Math.abs(b - samples[clearAt + 2]!))
    } else if (a >= full) solid++
    if (a < full) {
      if (r > a + slack || g > a + slack || b > a + slack) excess++
      const rest = full - a - slack
      if (r < rest || g < rest || b < rest) deficit++
    }
    if (depth === 16 && (code % 257 || r % 257 || g % 257 || b % 257)) fine++
  }
  // codecs that lose a little may leave a clear field uneven by a code or two
  const constant = clearSpread * toByte <= 2
  const clearColour = clearAt >= 0 && constant ? codesToHex([samples[clearAt]! * toByte, samples[clearAt + 1]! * toByte, samples[clearAt + 2]! * toByte]) : null
  return {
    width,
    height,
    histogram,
    clear,
    solid,
    partial: width * height - clear - solid,
    least: least / full,
    most: most / full,
    levels,
    fine,
    clearColour,
    clearPicture: clearAt >= 0 && !constant,
    excess,
    deficit,
    border: borderColour(frame, toByte),
    pairs: collectPairs(frame, clearColour),
    fingerprint: fingerprint(samples)
  }
}
