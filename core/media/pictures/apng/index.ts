/** Animated PNG: one file, exact at 8 and 16 bits, shown by every browser. */
import { PLAYS } from '../animation/plays'
import type { PictureKind } from '../../formats/format'
import { looksLikePng, SIGNATURE, chunk } from '../png/chunks'
import { colourChunk, headerChunk, shapeChunk } from '../png/encode'
import { readPngInfo } from '../png/header'
import { decodeIndependently } from '../png/independent'
import { PNG_DEPTHS, PNG_OPAQUE, PNG_STRAIGHT } from '../png/row'
import { isAnimated } from '../png/file'
import { laysOver, optimises, packWays, unpackWays, waysOf, type ApngFrame } from './changes'
import { animationControl, frameControl, frameDataChunk } from './control'
import { asStandalonePng, openApng } from './read'

export const apng: PictureKind = {
  extension: 'png',
  mime: 'image/apng',
  delivers: 'film',
  carries: 'colour and alpha in one file',
  labels: 'numbers',
  lossless: true,
  exactAlpha: true,
  depths: PNG_DEPTHS,
  alpha: {
    straight: PNG_STRAIGHT,
    premultiplied: {
      can: false,
      because:
        'PNG is defined as straight, and browsers show it so. A premultiplied animation would have dark rims ' +
        'in every page.'
    },
    none: PNG_OPAQUE
  },
  declaredMattes: [],
  limits: { width: 2 ** 31 - 1, height: 2 ** 31 - 1, rate: 'a frame lasts a fraction of two 16-bit numbers' },
  options: {
    optimise: {
      label: 'Store what changed',
      help: 'Frames hold only what changed since the one before, code for code. Off, every frame is whole.',
      type: 'switch',
      default: true
    },
    over: {
      label: 'Blend over',
      help:
        'Changes blended over the frame before are smaller. At 16 bits some readers stop at the first ' +
        'such frame, so it is left to 8 bits unless you know yours.',
      type: 'choice',
      choices: [
        { value: 'eight', label: 'At 8 bits' },
        { value: 'always', label: 'Always' },
        { value: 'never', label: 'Never' }
      ],
      default: 'eight'
    },
    plays: PLAYS
  },
  proofReader: { name: "a library's PNG decoder, frame by frame", independent: true },
  refusesRate: ([n, d]) =>
    n > 65535 || d > 65535
      ? `APNG holds a frame's time as a fraction of numbers up to 65535; ${n}/${d} does not fit.`
      : null,

  async recognise(head, reader) {
    return looksLikePng(head) && (await isAnimated(reader)) ? 'film' : null
  },
  async measure(reader) {
    const { header } = await readPngInfo(reader)
    return { width: header.width, height: header.height }
  },
  open: (name, files, host) => openApng(name, files[0]!, host),
  openForProof: (name, files, host) =>
    openApng(name, files[0]!, host, (_, file, info, packed, { width, height }) =>
      decodeIndependently(host, asStandalonePng(info, packed, width, height), file)
    ),

  buildsOn: (position, deliverable) => position > 0 && optimises(deliverable),
  encode: (host, frame, deliverable, before) =>
    Promise.resolve(packWays(waysOf(host, frame, before, laysOver(deliverable)))),
  async assemble(target, { width, height, depth, alpha, frames, rate, pixelAspect, tags, levels, options }) {
    if (target.kind !== 'film') throw new TypeError('an animated PNG is delivered as one file')
    const { sink } = target
    await sink.append(SIGNATURE)
    await sink.append(headerChunk(width, height, depth, alpha.mode !== 'none'))
    await sink.append(colourChunk(tags ?? null, levels ?? null))
    await sink.append(shapeChunk(pixelAspect))
    await sink.append(animationControl(frames, Number(options.plays ?? 0)))
    const delay: [number, number] = [rate![1], rate![0]]
    let sequence = 0
    // a frame is written once the next has said what should become of it
    let waiting: ApngFrame | null = null
    const write = async (laid: ApngFrame, dispose: 'leave' | 'clear'): Promise<void> => {
      const first = sequence === 0
      await sink.append(frameControl(sequence++, { ...laid, dispose }, delay))
      await sink.append(first ? chunk('IDAT', laid.data) : frameDataChunk(sequence++, laid.data))
    }
    return {
      async add(_, encoded) {
        const { kept, wiped } = unpackWays(encoded)
        const wipe = waiting?.wipes === true && wiped !== null && wiped.data.length < kept.data.length
        if (waiting) await write(waiting, wipe ? 'clear' : 'leave')
        waiting = wipe ? wiped : kept
      },
      async finish() {
        if (waiting) await write(waiting, 'leave')
        await sink.append(chunk('IEND'))
      }
    }
  },
  // signature, IHDR, sRGB, acTL, IEND; for each frame fcTL and chunk frame, against the head that it travelled with
  wrappedSize: (encoded, { frames, pixelAspect }) =>
    encoded + 8 + 25 + 13 + shapeChunk(pixelAspect).length + 20 + 12 + frames * (38 + 16 - 22) - 4
}
