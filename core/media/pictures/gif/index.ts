/**
 * GIF (GIF89a): palettes of 256 colours, and pixels that are there or not. Soft edges are cut at a threshold, and laid
 * on a matte colour first so that no rim shows.
 */

import { PLAYS } from '../animation/plays'
import { concatenate } from '../../../base/files/bytes'
import { readAll, type FileRef } from '../../../base/files/file'
import { STRAIGHT, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { asShown, inTurn } from '../../../source/turns'
import { PartPlayer } from '../animation/canvas'
import { timesOf, ticksOf } from '../../../source/timing'
import type { Deliverable } from '../../formats/deliverable'
import type { OpenedPictures, PictureKind } from '../../formats/format'
import type { Survey } from '../../formats/traits/writing'
import { applyPalette, GIFEncoder, quantize } from './library'
import { decodeGifFrame, looksLikeGif, readGif } from './read'
import type { OptionValues } from '../../../base/settings/field'

/** Place of the delay in an encoded frame: behind the graphic control extension's introducer, label, size and flags. */
const DELAY_AT = 4

/** Spreads the rounding of each pixel over its neighbours (Floyd and Steinberg, 1976); clear pixels take no part. */
function dithered(
  rgba: Uint8Array,
  width: number,
  height: number,
  palette: readonly (readonly number[])[]
): Uint8Array {
  const work = Float32Array.from(rgba)
  const index = new Uint8Array(width * height)
  const [reds, greens, blues] = [0, 1, 2].map(c => Float32Array.from(palette, colour => colour[c]!)) as [
    Float32Array,
    Float32Array,
    Float32Array
  ]
  // the colour nearest to each of 6 bits, found when it is first asked for
  const near = new Int16Array(1 << 18).fill(-1)
  const nearest = (r: number, g: number, b: number): number => {
    const key = ((r >> 2) << 12) | ((g >> 2) << 6) | (b >> 2)
    if (near[key]! >= 0) return near[key]!
    let best = 0
    let least = Infinity
    for (let i = 0; i < reds.length; i++) {
      const dr = reds[i]! - r
      const dg = greens[i]! - g
      const db = blues[i]! - b
      const distance = dr * dr + dg * dg + db * db
      if (distance < least) {
        least = distance
        best = i
      }
    }
    near[key] = best
    return best
  }
  const clamp = (v: number): number => (v < 0 ? 0 : v > 255 ? 255 : v)
  const spread = (at: number, error: number, x: number, last: boolean): void => {
    if (x + 1 < width) work[at + 4]! += (error * 7) / 16
    if (last) return
    const below = at + 4 * width
    if (x > 0) work[below - 4]! += (error * 3) / 16
    work[below]! += (error * 5) / 16
    if (x + 1 < width) work[below + 4]! += error / 16
  }
  for (let y = 0; y < height; y++) {
    const last = y + 1 === height
    for (let x = 0; x < width; x++) {
      const i = 4 * (y * width + x)
      if (rgba[i + 3] === 0) continue
      const r = clamp(work[i]!)
      const g = clamp(work[i + 1]!)
      const b = clamp(work[i + 2]!)
      const n = nearest(r, g, b)
      index[y * width + x] = n
      spread(i, r - reds[n]!, x, last)
      spread(i + 1, g - greens[n]!, x, last)
      spread(i + 2, b - blues[n]!, x, last)
    }
  }
  return index
}

/** Colours in a palette; one place is kept for what is clear. */
const COLOURS = 255

/** Solid pixels, at most about `most` of them, evenly taken. */
function solidPixels(rgba: Uint8Array, most: number): Uint8Array {
  let count = 0
  for (let i = 3; i < rgba.length; i += 4) if (rgba[i]! > 0) count++
  const every = Math.max(1, Math.ceil(count / most))
  const solid = new Uint8Array(4 * Math.ceil(count / every))
  let [seen, at] = [0, 0]
  for (let i = 0; i < rgba.length; i += 4) {
    if (rgba[i + 3] === 0 || seen++ % every !== 0) continue
    for (let c = 0; c < 3; c++) solid[at + c] = rgba[i + c]!
    solid[at + 3] = 255
    at += 4
  }
  return solid
}

/**
 * Colours of 5, 6 and 5 bits that a palette is sought from at most. The search takes time by their square: 3,000 take a
 * tenth of a second, all 65,536 of a noisy picture a quarter of a minute. Beyond, colours of 4 bits each are told
 * apart, and their means still are those of the pixels.
 */
const MOST_TOLD_APART = 3000

function toldApart(solid: Uint8Array): number {
  const seen = new Uint8Array(65536)
  let count = 0
  for (let i = 0; i < solid.length; i += 4) {
    const key = ((solid[i]! >> 3) << 11) | ((solid[i + 1]! >> 2) << 5) | (solid[i + 2]! >> 3)
    count += 1 - seen[key]!
    seen[key] = 1
  }
  return count
}

function paletteOf(solid: Uint8Array): number[][] {
  const format = toldApart(solid) > MOST_TOLD_APART ? 'rgb444' : 'rgb565'
  const colours = solid.length ? quantize(solid, COLOURS, { format }) : []
  return colours.map(([r, g, b]) => [r!, g!, b!])
}

/** The clip's palette as its survey left it: three bytes a colour, filled up to 256. */
function unpacked(survey: Uint8Array): number[][] {
  return Array.from({ length: COLOURS }, (_, n) => [...survey.subarray(3 * n, 3 * n + 3)])
}

/** Pixels of one frame that a clip's palette is judged from. */
const LOOKED_AT = 6000

const survey: Survey = {
  wanted: ({ options }) => options.palette === 'clip',
  look: frame => solidPixels(frame.samples as Uint8Array, LOOKED_AT),
  join(looks) {
    const colours = paletteOf(concatenate([...looks]))
    const table = new Uint8Array(768)
    // places left over repeat the last colour, so that none of them is nearer than a real one
    for (let n = 0; n < COLOURS; n++) table.set(colours[Math.min(n, colours.length - 1)] ?? [0, 0, 0], 3 * n)
    return table
  }
}

/** One frame: control extension, image descriptor, its palette unless the clip has one, code. */
function encodeFrame(frame: Frame, { options, survey: shared }: Deliverable): Uint8Array {
  const { width, height } = frame
  const rgba = frame.samples as Uint8Array
  const palette = shared ? unpacked(shared) : paletteOf(solidPixels(rgba, Infinity))
  const clear = palette.length
  const index =
    palette.length === 0
      ? new Uint8Array(width * height)
      : options.dither === false
        ? applyPalette(rgba, palette, 'rgb565')
        : dithered(rgba, width, height, palette)
  for (let p = 0; p < index.length; p++) if (rgba[4 * p + 3] === 0) index[p] = clear
  const writer = GIFEncoder({ auto: false })
  // each frame wipes what was there: disposal 2 leaves the place clear for the next; a solid one covers it anyway
  const solidOnly = frame.alpha.mode === 'none'
  writer.writeFrame(index, width, height, {
    palette: shared ? null : [...palette, [0, 0, 0]],
    transparent: !solidOnly,
    transparentIndex: solidOnly ? 0 : clear,
    delay: 0,
    dispose: solidOnly ? 1 : 2,
    first: false
  })
  return writer.bytes()
}

/**
 * head: "GIF89a", u16 width, u16 height, u8 0x70 (0xf7 with a palette of 256 for the clip), u8 0, u8 0, the palette
 * loop: 21 FF 0B "NETSCAPE2.0" 03 01, u16 times, 00; the word of the format's own extension
 */
function head(width: number, height: number, plays: number, palette: Uint8Array): Uint8Array {
  const letters = (text: string): number[] => [...text].map(letter => letter.charCodeAt(0))
  const loop =
    plays === 1
      ? []
      : [
          0x21,
          0xff,
          11,
          ...letters('NETSCAPE2.0'),
          3,
          1,
          ...[plays === 0 ? 0 : plays - 1].flatMap(n => [n & 255, n >> 8]),
          0
        ]
  return Uint8Array.from([
    ...letters('GIF89a'),
    width & 255,
    width >> 8,
    height & 255,
    height >> 8,
    palette.length ? 0xf7 : 0x70,
    0,
    0,
    ...palette,
    ...loop
  ])
}

async function openGif(name: string, file: FileRef, host: Host): Promise<OpenedPictures> {
  const reader = await host.openFile(file)
  const bytes = await readAll(reader)
  const info = readGif(bytes, reader.name)
  const { width, height, frames } = info
  const { rate, shown, findings } = timesOf(
    frames.map(frame => frame.delay),
    100
  )
  const player = new PartPlayer({ width, height, depth: 8, alpha: STRAIGHT }, frames, i =>
    Promise.resolve(decodeGifFrame(bytes, frames[i]!, reader.name, `frame ${i + 1}`))
  )
  const turns = inTurn(reader.name, frames.length, (index, signal) => player.frame(index, signal))
  return {
    facts: {
      name,
      kind: frames.length === 1 ? 'GIF picture' : 'animated GIF',
      width,
      height,
      frames: shown?.length ?? frames.length,
      ...(shown ? { each: { frames: frames.length, rate } } : {}),
      rate: frames.length > 1 ? rate : null,
      rateFrom: frames.length > 1 && rate ? 'file' : 'unknown',
      bitDepth: 8,
      claim: info.transparent
        ? { mode: 'straight', matte: null, says: 'GIF knows clear and solid only' }
        : { mode: 'none', matte: null, says: 'no frame has a transparent colour' },
      colour: null,
      pixelAspect: [1, 1],
      plays: info.plays,
      bytes: file.size,
      findings
    },
    ...asShown(turns, shown, frames.length),
    async close() {
      await turns.settled()
      await reader.close()
    }
  }
}

/** The nearest rate GIF can play evenly, in words, or null when this one is held to the hundredth. */
function unheld([n, d]: readonly [number, number]): string | null {
  const delay = (100 * d) / n
  if (delay < 1.5)
    return (
      'GIF holds times in hundredths of a second, and browsers play nothing faster than 50 frames a ' +
      `second; ${Math.round(n / d)} does not fit.`
    )
  return null
}

export const gif: PictureKind = {
  extension: 'gif',
  mime: 'image/gif',
  delivers: 'film',
  carries: 'colour of 256 shades, and alpha that is only on or off',
  lossless: false,
  exactAlpha: true,
  depths: [{ depth: 8, colourBits: 8, alphaBits: 1 }],
  alpha: {
    straight: { can: true, declares: 'one transparent colour; every other is solid' },
    premultiplied: {
      can: false,
      because: 'a pixel of GIF is there or not, so there is nothing to multiply; the matte colour is among its settings'
    },
    none: { can: true, declares: 'no frame has a transparent colour' }
  },
  declaredMattes: [],
  limits: { width: 65535, height: 65535, rate: 'times are hundredths of a second, written so that they do not drift' },
  options: {
    threshold: {
      label: 'Solid from',
      help: 'Alpha, in per cent, from which a pixel is solid; below it is clear.',
      type: 'number',
      whole: true,
      min: 1,
      max: 100,
      default: 50
    },
    matte: {
      label: 'Edge colour',
      help:
        'What soft edges are laid on before they are cut: the colour of the page it will lie on. Without ' +
        'it edges keep their own colour.',
      type: 'choice',
      choices: [
        { value: 'none', label: 'Own colour' },
        { value: '#ffffff', label: 'White' },
        { value: '#000000', label: 'Black' },
        { value: '#808080', label: 'Grey' }
      ],
      default: 'none'
    },
    palette: {
      label: 'Palette',
      help:
        'Of its own for each frame: closest colours. One for the clip: smaller, and flat colours do not ' +
        'flicker from frame to frame.',
      type: 'choice',
      choices: [
        { value: 'frame', label: 'Each frame' },
        { value: 'clip', label: 'The clip' }
      ],
      default: 'frame'
    },
    dither: {
      label: 'Dither',
      help: 'Spreads what 256 colours cannot hold over neighbouring pixels: smoother shades, larger files.',
      type: 'switch',
      default: true
    },
    plays: PLAYS
  },
  cut: (options: OptionValues) => ({
    threshold: Number(options.threshold ?? 50) / 100,
    matte: options.matte === 'none' || options.matte === undefined ? null : String(options.matte)
  }),
  proofReader: { name: "Pour's own GIF reader; the writer is a library's", independent: true },
  clock: 100,
  refusesRate: unheld,

  recognise: (bytes, _) => Promise.resolve(looksLikeGif(bytes) ? 'film' : null),
  async measure(reader) {
    const { width, height } = readGif(await readAll(reader), reader.name)
    return { width, height }
  },
  open: (name, files, host) => openGif(name, files[0]!, host),
  openForProof: (name, files, host) => openGif(name, files[0]!, host),
  survey,
  encode: (_, frame, deliverable) => Promise.resolve(encodeFrame(frame, deliverable)),
  async assemble(target, { width, height, rate, options, survey: palette }: Deliverable) {
    if (target.kind !== 'film') throw new TypeError('a GIF is delivered as one file')
    const { sink } = target
    await sink.append(head(width, height, Number(options.plays ?? 0), palette ?? new Uint8Array(0)))
    return {
      async add(index, encoded) {
        const frame = encoded.slice()
        const delay = ticksOf(index, rate!, 100)
        frame[DELAY_AT] = delay & 255
        frame[DELAY_AT + 1] = delay >> 8
        await sink.append(frame)
      },
      finish: () => sink.append(new Uint8Array([0x3b]))
    }
  },
  wrappedSize: (encoded, { options }) =>
    encoded + 13 + (options.palette === 'clip' ? 768 : 0) + (Number(options.plays ?? 0) === 1 ? 0 : 19) + 1
}
