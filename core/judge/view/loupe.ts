/** What a loupe says of a pixel: its stored codes, in per cent as well. */
import { fullCode, type Frame } from '../../frame/frame'

/**
 * "r 200 78.4 % g 100 39.2 % b 50 19.6 % · a 255 100 %"; `brief` leaves the per cent of colour out, where two stand
 * side by side.
 */
export function sayPixel({ width, depth, samples }: Frame, x: number, y: number, brief: boolean): string {
  const i = 4 * (y * width + x)
  const say = (letter: string, n: number): string => {
    const value = samples[i + n]!
    const code = depth === 32 ? value.toFixed(4) : String(value)
    return brief && n < 3
      ? `${letter} ${code}`
      : `${letter} ${code} ${Math.round((value / fullCode(depth)) * 1000) / 10} %`
  }
  return `${say('r', 0)} ${say('g', 1)} ${say('b', 2)} · ${say('a', 3)}`
}
