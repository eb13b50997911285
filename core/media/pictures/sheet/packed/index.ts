/**
 * A packed sheet: each frame trimmed to what is in it, pieces laid into as few pages as hold them, like ones once, and
 * a data file that says where each lies and stood; for engines also in the layout that they share, for pages a style
 * sheet.
 */
import { concatenate } from '../../../../base/files/bytes'
import { readAll, type ByteReader } from '../../../../base/files/file'
import type { FilesSink } from '../../../../base/files/sinks'
import { impossible } from '../../../../base/errors'
import type { Frame } from '../../../../frame/frame'
import type { Host } from '../../../../frame/host'
import type { OptionValues } from '../../../../base/settings/field'
import type { Deliverable } from '../../../formats/deliverable'
import type { PictureKind } from '../../../formats/format'
import { encodePng } from '../../png/encode'
import { decodePngFile } from '../../png/file'
import { decodeIndependently } from '../../png/independent'
import { PNG_DEPTHS, PNG_OPAQUE } from '../../png/row'
import { MOST_FRAMES, MOST_PAGES, type PackedSheet, type SheetPiece } from './data'
import { dataKind, openPacked, pagesBeside } from './open'
import { packPieces, type PackedPages, type PackHow } from './pack'
import { layIn } from './page'
import { sharedData } from './shared'
import { cutPiece, pieceOf, type Piece } from './trim'
import { sheetPages } from './web'

/** Memory holds one page: at 16 bits one of 4096x4096 takes as much as one may. */
const MOST_AT_16 = 4096

const OPTIONS = {
  trim: {
    label: 'Trim to',
    help: 'What is cut away of each frame. Colour under clear pixels is seen by nobody, but a filter may need it.',
    type: 'choice',
    choices: [
      { value: 'codes', label: 'what holds any code' },
      { value: 'alpha', label: 'what can be seen' },
      { value: 'none', label: 'the whole frame' }
    ],
    default: 'codes'
  },
  most: {
    label: 'Largest page',
    help: 'What does not go into one page goes into the next.',
    type: 'choice',
    choices: ['1024', '2048', '4096', '8192'].map(value => ({ value, label: `${value}×${value}` })),
    default: '4096'
  },
  powers: {
    label: 'Sides are powers of two',
    help: 'For engines that compress or shrink pages only so.',
    type: 'switch',
    default: false
  },
  padding: {
    label: 'Room between pieces',
    help: 'Clear pixels, so that filtering and smaller mip levels do not mix neighbours.',
    type: 'number',
    unit: 'px',
    whole: true,
    min: 0,
    max: 64,
    default: 4
  },
  extrude: {
    label: 'Repeat edges by',
    help: 'Each piece goes on around itself by its own edge, so that filtering finds no seam where it ends.',
    type: 'number',
    unit: 'px',
    whole: true,
    min: 0,
    max: 32,
    default: 0
  },
  rotate: {
    label: 'Pieces may lie turned',
    help: 'By a quarter, where that takes less room; who reads the data must turn them back.',
    type: 'switch',
    default: false
  },
  pivot: {
    label: 'Held by',
    help: 'The point that an engine places the frames by.',
    type: 'choice',
    choices: [
      { value: 'middle', label: 'the middle' },
      { value: 'feet', label: 'the middle of the lower edge' },
      { value: 'corner', label: 'the top left corner' }
    ],
    default: 'middle'
  },
  data: {
    label: 'Further data',
    help: 'Beside its own data file: one a page in the layout that many engines share.',
    type: 'choice',
    choices: [
      { value: 'none', label: 'none' },
      { value: 'hash', label: 'frames by name' },
      { value: 'array', label: 'frames in a row' }
    ],
    default: 'hash'
  },
  web: {
    label: 'A style sheet and a page',
    help: 'CSS with a class for each action, and a page that plays them.',
    type: 'switch',
    default: false
  }
} as const

const PIVOTS = { middle: { x: 0.5, y: 0.5 }, feet: { x: 0.5, y: 1 }, corner: { x: 0, y: 0 } } as const

const howOf = (options: OptionValues): PackHow => ({
  most: Number(options.most),
  padding: Number(options.padding),
  extrude: Number(options.extrude),
  powers: options.powers === true,
  rotate: options.rotate === true
})

/** A piece and its pixels as a worker hands them over: four numbers, then the pixels as PNG packs them. */
const HEAD = 16

function handed(host: Host, frame: Frame, trim: string): Uint8Array {
  const { width, height, alpha } = frame
  const piece = trim === 'none' ? { left: 0, top: 0, width, height } : pieceOf(frame, trim === 'alpha')
  const packed = host.kernels.pngPack(cutPiece(frame, piece), piece.width, piece.height, alpha.mode === 'none' ? 3 : 4)
  const numbers = new Uint8Array(Uint32Array.of(piece.left, piece.top, piece.width, piece.height).buffer)
  return concatenate([numbers, packed])
}

interface Unique {
  width: number
  height: number
  packed: Uint8Array
}

/** Pieces that came, each once; what lies where in its frame is told of each frame. */
class Pieces {
  readonly unique: Unique[] = []
  readonly frames: (Piece & { unique: number })[] = []
  private readonly known = new Map<string, number[]>()

  constructor(private readonly host: Host) {}

  add(index: number, encoded: Uint8Array): void {
    const [left, top, width, height] = new Uint32Array(encoded.slice(0, HEAD).buffer) as unknown as [
      number,
      number,
      number,
      number
    ]
    const packed = encoded.slice(HEAD)
    const key = `${width} ${height} ${packed.length} ${this.host.kernels.crc32(packed)}`
    const alike = this.known.get(key) ?? []
    const same = alike.find(of => this.unique[of]!.packed.every((byte, i) => byte === packed[i]))
    if (same === undefined) {
      alike.push(this.unique.length)
      this.known.set(key, alike)
    }
    this.frames[index] = { left, top, width, height, unique: same ?? this.unique.length }
    if (same === undefined) this.unique.push({ width, height, packed })
  }
}

interface Delivered {
  pieces: Pieces
  packed: PackedPages
  deliverable: Deliverable
  stem: string
}

const pageNames = (stem: string, pages: number): string[] =>
  Array.from({ length: pages }, (_, i) => (pages === 1 ? `${stem}.png` : `${stem}-${i + 1}.png`))

function dataOf({ pieces, packed, deliverable, stem }: Delivered): PackedSheet {
  const { width, height, rate, alpha, depth, options, actions = [] } = deliverable
  const names = pageNames(stem, packed.pages.length)
  return {
    sheet: 'packed',
    version: 1,
    name: (deliverable.subject ?? stem).slice(0, 255),
    width,
    height,
    rate: rate && [...rate],
    alpha: alpha.mode,
    bits: depth === 16 ? 16 : 8,
    padding: Number(options.padding),
    extrude: Number(options.extrude),
    pivot: PIVOTS[String(options.pivot) as keyof typeof PIVOTS],
    pages: packed.pages.map((size, i) => ({ image: names[i]!, ...size })),
    frames: pieces.frames.map(({ unique, ...piece }) => ({ ...packed.places[unique]!, ...piece })),
    actions: actions.map(action => ({ ...action }))
  }
}

/** One page, its pieces unpacked one by one and laid in. */
async function pageFile(host: Host, page: number, { pieces, packed, deliverable }: Delivered): Promise<Uint8Array> {
  const { width, height } = packed.pages[page]!
  const { depth, alpha, pixelAspect, tags, levels, options } = deliverable
  const samples = new (depth === 16 ? Uint16Array : Uint8Array)(4 * width * height)
  const channels = alpha.mode === 'none' ? 3 : 4
  for (const [unique, place] of packed.places.entries()) {
    if (place.page !== page) continue
    const piece = pieces.unique[unique]!
    const rows = (piece.width * channels * (depth / 8) + 1) * piece.height
    const filtered = await host.deflate.inflate(piece.packed, rows, 'zlib')
    const pixels = host.kernels.pngUnpack(filtered, piece.width, piece.height, channels, depth === 16 ? 16 : 8)
    const at: SheetPiece = { ...place, width: piece.width, height: piece.height, left: 0, top: 0 }
    layIn({ width, height, samples }, at, pixels as Uint8Array | Uint16Array, Number(options.extrude))
  }
  const frame: Frame = { width, height, depth: depth === 16 ? 16 : 8, samples, alpha, transfer: 'srgb' }
  return encodePng(host, frame, { pixelAspect, tags: tags ?? null, levels: levels ?? null })
}

const written = (value: unknown): Uint8Array => new TextEncoder().encode(`${JSON.stringify(value)}\n`)

async function deliver(sink: FilesSink, host: Host, pieces: Pieces, deliverable: Deliverable): Promise<void> {
  const { options, rate, names } = deliverable
  const main = names[0] ?? 'sheet.json'
  const stem = main.replace(/\.json$/, '')
  const how = howOf(options)
  const packed = packPieces(pieces.unique, how)
  if (!packed)
    throw impossible(
      `A frame has more in it than a page of ${how.most}x${how.most} holds: allow larger pages, or give the outlet a ` +
        'step that scales.'
    )
  if (packed.pages.length > MOST_PAGES)
    throw impossible(`They fill ${packed.pages.length} pages, and a sheet has ${MOST_PAGES} at most.`)
  const given = { pieces, packed, deliverable, stem }
  const data = dataOf(given)
  for (const [page, { image }] of data.pages.entries()) await sink.add(image, await pageFile(host, page, given))
  await sink.add(main, written(data))
  if (options.data !== 'none')
    for (const [page, shared] of sharedData(data, options.data === 'array' ? 'array' : 'hash').entries())
      await sink.add(`${data.pages[page]!.image.replace(/\.png$/, '')}.frames.json`, written(shared))
  if (options.web === true && rate) {
    const { css, html } = sheetPages(data, rate, { css: `${stem}.css` })
    await sink.add(`${stem}.css`, new TextEncoder().encode(css))
    await sink.add(`${stem}.html`, new TextEncoder().encode(html))
  }
}

export const packedSheet: PictureKind = {
  extension: 'json',
  mime: 'application/json',
  delivers: 'folder',
  carries: 'trimmed frames packed into pages, and a data file that says where each lies',
  labels: 'numbers',
  lossless: true,
  exactAlpha: true,
  depths: PNG_DEPTHS,
  alpha: {
    straight: { can: true, declares: 'PNG is straight by its standard, and the data file says so' },
    premultiplied: {
      can: true,
      declares: 'the data file says so; an engine that does not read it must be told',
      matte: '#000000'
    },
    none: PNG_OPAQUE
  },
  exact: options => options.trim !== 'alpha',
  declaredMattes: ['#000000'],
  limits: { width: 16_384, height: 16_384, rate: 'in the data file' },
  options: OPTIONS,
  proofReader: { name: "a library's PNG decoder, cut by the data file", independent: true },
  refusesRate: () => null,
  refuses(options, rate) {
    if (options.web !== true) return null
    if (options.rotate === true) return 'A style sheet cannot turn pieces back: let none lie turned, or leave the page.'
    return rate ? null : 'A page plays at a rate, and nothing says how fast this source plays. Give its rate first.'
  },
  refusesClip({ width, height, frames, depth, options }) {
    const { most, extrude } = howOf(options)
    if (frames > MOST_FRAMES) return `${frames} frames are more than a sheet tells of: ${MOST_FRAMES}.`
    if (depth === 16 && most > MOST_AT_16) return `At 16 bits a page may be ${MOST_AT_16}×${MOST_AT_16} at most.`
    if (options.trim !== 'none' || Math.max(width, height) + 2 * extrude <= most) return null
    return `Frames of ${width}x${height} do not go into a page of ${most}x${most}: trim them, or allow larger pages.`
  },
  layout: ({ options }) =>
    `packed into pages of at most ${String(options.most)}×${String(options.most)}, with a data file`,

  recognise: head => Promise.resolve(dataKind(head) ? 'film' : null),
  beside: pagesBeside,
  measure: () => Promise.resolve({ width: 1, height: 1 }),
  open: (name, files, host) => openPacked(name, files, host, (_, reader: ByteReader) => decodePngFile(host, reader)),
  openForProof: (name, files, host) =>
    openPacked(name, files, host, async (_, reader) => decodeIndependently(host, await readAll(reader), reader.name)),

  encode: (host, frame, { options }) => Promise.resolve(handed(host, frame, String(options.trim))),
  assemble(target, deliverable, host) {
    if (target.kind !== 'pictures') throw new TypeError('a packed sheet is delivered as a folder')
    const pieces = new Pieces(host)
    return Promise.resolve({
      add: (index: number, encoded: Uint8Array) => Promise.resolve(pieces.add(index, encoded)),
      finish: () => deliver(target.sink, host, pieces, deliverable)
    })
  },
  // the pieces as they are, with some room, and a line of data for each, twice where engines' own goes along
  wrappedSize: (encoded, { frames, options }) =>
    Math.round(1.02 * encoded) + 400 + frames * (110 + (options.data === 'none' ? 0 : 260) + (options.web ? 120 : 0))
}
