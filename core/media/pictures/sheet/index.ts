/** A sheet: all frames side by side in one PNG, as engines cut them out, with its grid told in a note within. */
import { concatenate } from '../../../base/files/bytes'
import { baseName, readAll, type ByteReader, type FileRef } from '../../../base/files/file'
import { unreadable } from '../../../base/errors'
import type { AlphaMode, Frame } from '../../../frame/frame'
import { OPAQUE, STRAIGHT } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { Deliverable } from '../../formats/deliverable'
import type { OpenedPictures, PictureKind } from '../../formats/format'
import { sayIssue } from '../../../base/say-issue'
import type { OptionValues } from '../../../base/settings/field'
import { inTurn } from '../../../source/turns'
import { chunk, looksLikePng, readChunk, SIGNATURE } from '../png/chunks'
import { colourChunk, encodePixels, headerChunk, pixelChunk, shapeChunk } from '../png/encode'
import { decodePngFile } from '../png/file'
import { colourFindings, readPngInfo, type PngInfo } from '../png/header'
import { decodeIndependently } from '../png/independent'
import { PNG_DEPTHS, PNG_OPAQUE } from '../png/row'
import { gridOf, MOST_PIXELS, MOST_SIDE, placeIn, sheetSize, SheetNote, type Grid } from './grid'

/** The keyword of the text chunk that holds the note (ISO/IEC 15948, 11.3.4.5), and what stands before the text. */
const KEYWORD = 'Pour sheet'
const BEFORE_TEXT = new TextEncoder().encode(`${KEYWORD}\0\0\0\0\0`)
const MOST_NOTE = 1000
/** The modes that a note can tell of; it says the matte of none, so black is meant. */
const MODES: Record<SheetNote['alpha'], AlphaMode> = {
  straight: STRAIGHT,
  premultiplied: { mode: 'premultiplied', matte: '#000000' },
  none: OPAQUE
}

const COLUMNS = {
  label: 'Columns',
  help: 'Frames in a row. With 0 the sheet is made as square as it goes.',
  type: 'number',
  whole: true,
  min: 0,
  max: 256,
  default: 0
} as const
const GAP = {
  label: 'Gap between frames',
  help: 'Clear pixels between one frame and the next, so that filtering does not mix neighbours.',
  type: 'number',
  whole: true,
  min: 0,
  max: 64,
  default: 0
} as const

/** Whether a PNG holds the note: it stands before the picture, among the first bytes. */
export function isSheet(head: Uint8Array): boolean {
  return looksLikePng(head) && new TextDecoder('latin1').decode(head.subarray(0, 200)).includes(`iTXt${KEYWORD}\0`)
}

const gridBy = (clip: Pick<Deliverable, 'width' | 'height' | 'frames'>, options: OptionValues): Grid =>
  gridOf(clip, { columns: Number(options.columns ?? 0), gap: Number(options.gap ?? 0) })

function noteChunk(note: SheetNote): Uint8Array {
  return chunk('iTXt', concatenate([BEFORE_TEXT, new TextEncoder().encode(JSON.stringify(note))]))
}

async function noteIn(reader: ByteReader, info: PngInfo): Promise<SheetNote> {
  const fail = (matter: string): Error => unreadable(reader.name, 'the note of the sheet', matter)
  for (const place of info.chunks) {
    if (place.type !== 'iTXt' || place.length > MOST_NOTE) continue
    const data = await readChunk(reader, place)
    if (!BEFORE_TEXT.every((byte, i) => data[i] === byte)) continue
    let told: unknown
    try {
      told = JSON.parse(new TextDecoder().decode(data.subarray(BEFORE_TEXT.length)))
    } catch {
      throw fail('it is not complete')
    }
    const read = SheetNote.safeParse(told)
    if (!read.success) throw fail(sayIssue(read.error.issues[0]!))
    const { width, height } = sheetSize(read.data, read.data)
    if (width !== info.header.width || height !== info.header.height)
      throw fail(`it tells of ${width}x${height}, and the picture has ${info.header.width}x${info.header.height}`)
    if (read.data.frames > read.data.columns * read.data.rows)
      throw fail(`${read.data.frames} frames do not lie in ${read.data.columns}x${read.data.rows}`)
    return read.data
  }
  throw fail('there is none')
}

type DecodeSheet = (host: Host, reader: ByteReader) => Promise<Frame>

/** One frame, cut out of the sheet. */
function cutOut(sheet: Frame, note: SheetNote, index: number): Frame {
  const { width, height } = note
  const { x, y } = placeIn(note, note, index)
  const samples = new (sheet.samples.constructor as Uint8ArrayConstructor)(4 * width * height)
  for (let row = 0; row < height; row++) {
    const from = 4 * ((y + row) * sheet.width + x)
    samples.set(sheet.samples.subarray(from, from + 4 * width) as Uint8Array, 4 * row * width)
  }
  return { ...sheet, width, height, samples }
}

async function openSheet(name: string, file: FileRef, host: Host, decode: DecodeSheet): Promise<OpenedPictures> {
  const reader = await host.openFile(file)
  const info = await readPngInfo(reader)
  const note = await noteIn(reader, info)
  const { width, height, frames, rate, columns, rows } = note
  let sheet: Promise<Frame> | null = null
  const turns = inTurn(reader.name, frames, async index => {
    sheet ??= decode(host, reader)
    return cutOut(await sheet, note, index)
  })
  const alpha = MODES[note.alpha]
  return {
    facts: {
      name: name || baseName(file.path),
      kind: `PNG sheet, ${columns}×${rows}`,
      width,
      height,
      frames,
      rate,
      rateFrom: rate ? 'file' : 'unknown',
      bitDepth: info.header.bitDepth === 16 ? 16 : 8,
      claim: {
        mode: alpha.mode,
        matte: alpha.mode === 'premultiplied' ? alpha.matte : null,
        says: `the sheet's note says ${note.alpha === 'none' ? 'no alpha' : note.alpha}`
      },
      colour: info.colour,
      tags: info.tags && [...info.tags],
      ...(info.levels ? { levels: info.levels } : {}),
      pixelAspect: info.pixelAspect,
      plays: null,
      bytes: file.size,
      findings: colourFindings(info)
    },
    ...turns,
    async close() {
      await turns.settled()
      await reader.close()
    }
  }
}

export const pngSheet: PictureKind = {
  extension: 'png',
  mime: 'image/png',
  delivers: 'film',
  carries: 'all frames side by side in one picture, and its grid in a note within',
  labels: 'numbers',
  lossless: true,
  exactAlpha: true,
  depths: PNG_DEPTHS,
  alpha: {
    straight: { can: true, declares: 'PNG is straight by its standard, and the note says so' },
    premultiplied: {
      can: true,
      declares: 'the note within says so; an engine that does not read it must be told',
      matte: '#000000'
    },
    none: PNG_OPAQUE
  },
  declaredMattes: ['#000000'],
  limits: { width: MOST_SIDE, height: MOST_SIDE, rate: 'in the note within' },
  options: { columns: COLUMNS, gap: GAP },
  proofReader: { name: "a library's PNG decoder, cut by the note", independent: true },
  refusesRate: () => null,
  refusesClip({ width, height, frames, depth, options }) {
    const grid = gridBy({ width, height, frames }, options)
    const size = sheetSize(grid, { width, height })
    const most = depth === 16 ? MOST_PIXELS[16] : MOST_PIXELS[8]
    if (Math.max(size.width, size.height) <= MOST_SIDE && size.width * size.height <= most) return null
    return (
      `${frames} frames of ${width}x${height} make a sheet of ${size.width}x${size.height}; one may be ` +
      `${MOST_SIDE} wide and high and have ${Math.round(most / 1e6)} million pixels at ${depth} bits. ` +
      'Give the outlet a step that scales it, or fewer frames.'
    )
  },
  layout({ width, height, frames, options }) {
    const grid = gridBy({ width, height, frames }, options)
    const size = sheetSize(grid, { width, height })
    return `${grid.columns} columns, ${grid.rows} rows, ${size.width}×${size.height} in all`
  },

  recognise: head => Promise.resolve(isSheet(head) ? 'film' : null),
  async measure(reader) {
    const { width, height } = await noteIn(reader, await readPngInfo(reader))
    return { width, height }
  },
  open: (name, files, host) => openSheet(name, files[0]!, host, decodePngFile),
  openForProof: (name, files, host) =>
    openSheet(name, files[0]!, host, async (_, reader) =>
      decodeIndependently(host, await readAll(reader), reader.name)
    ),

  // one picture of all: it is coded once the last of them is there
  stateful: true,
  encode: (_, { samples }) =>
    Promise.resolve(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength).slice()),
  assemble(target, { width, height, depth, alpha, frames, rate, pixelAspect, tags, levels, options }, host) {
    if (target.kind !== 'film') throw new TypeError('a sheet is delivered as one file')
    const { sink } = target
    const grid = gridBy({ width, height, frames }, options)
    const size = sheetSize(grid, { width, height })
    const bytes = 4 * (depth / 8)
    const whole = new Uint8Array(bytes * size.width * size.height)
    return Promise.resolve({
      add(index: number, encoded: Uint8Array) {
        const { x, y } = placeIn(grid, { width, height }, index)
        for (let row = 0; row < height; row++)
          whole.set(
            encoded.subarray(bytes * row * width, bytes * (row + 1) * width),
            bytes * ((y + row) * size.width + x)
          )
        return Promise.resolve()
      },
      async finish() {
        const samples = depth === 16 ? new Uint16Array(whole.buffer) : whole
        const note = {
          sheet: 1,
          frames,
          ...grid,
          width,
          height,
          rate: rate && [...rate],
          alpha: alpha.mode
        } as SheetNote
        await sink.append(SIGNATURE)
        await sink.append(headerChunk(size.width, size.height, depth, alpha.mode !== 'none'))
        await sink.append(noteChunk(note))
        await sink.append(colourChunk(tags ?? null, levels ?? null))
        await sink.append(shapeChunk(pixelAspect))
        const sheet: Frame = { ...size, depth: depth === 16 ? 16 : 8, samples, alpha, transfer: 'srgb' }
        await sink.append(pixelChunk(host, 'IDAT', encodePixels(host, sheet)))
        await sink.append(chunk('IEND'))
      }
    })
  },
  wrappedSize: (encoded, { pixelAspect }) => encoded + 8 + 25 + 13 + shapeChunk(pixelAspect).length + 12 + 12 + 160
}
