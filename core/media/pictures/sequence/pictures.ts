/** What every picture sequence shares: files of one picture each, all of one size, named by the plan of the pour. */
import { PourError, unreadable } from '../../../base/errors'
import { memoryReader, readAll, type ByteReader, type FileRef } from '../../../base/files/file'
import { fullCode, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { Finding, SourceFacts } from '../../../source/source'
import type { Deliverable } from '../../formats/deliverable'
import type { OpenedPictures, PictureKind } from '../../formats/format'

/** What a picture file says before its pixels are read. */
export interface PictureAbout extends Pick<SourceFacts, 'width' | 'height' | 'bitDepth' | 'claim' | 'colour'> {
  /** "TIFF", "OpenEXR, half": the kind of one picture. */
  kind: string
  rate?: SourceFacts['rate']
  pixelAspect?: SourceFacts['pixelAspect']
  tags?: SourceFacts['tags']
  levels?: SourceFacts['levels']
  /** Of the first picture. */
  timecode?: SourceFacts['timecode']
  findings?: SourceFacts['findings']
  /**
   * Pictures that lie over each other in one file, by what they are called, and which is taken. Only where there are
   * several.
   */
  layers?: SourceFacts['layers']
  layer?: SourceFacts['layer']
}

/** Which of a file's pictures is meant: a page's number, a layer's name. */
export interface Which {
  page?: number
  layer?: string
}

export interface StillCodec {
  /** Whether these first bytes are of this kind. May look further, as animated files begin like still ones. */
  recognises(head: Uint8Array, reader: ByteReader): boolean | Promise<boolean>
  about(reader: ByteReader, layer?: string): Promise<PictureAbout>
  /** Pictures within one file, where there may be several: what `decode` is given for each. */
  pages?(reader: ByteReader): Promise<readonly number[]>
  decode(host: Host, reader: ByteReader, which?: Which): Promise<Frame>
  /** The proof's decoder, where another than `decode` can be had. */
  proofDecode?(host: Host, reader: ByteReader, which?: Which): Promise<Frame>
  /**
   * Of kinds whose header may leave it open whether there is alpha: whether this picture has any. Where no picture of a
   * clip has, what stands there means nothing, and all of them are solid; one clear picture alone tells nothing.
   */
  anyAlpha?(reader: ByteReader): Promise<boolean>
  encode(host: Host, frame: Frame, deliverable: Deliverable): Uint8Array | Promise<Uint8Array>
}

const isClear = ({ samples }: Frame): boolean => {
  for (let i = 3; i < samples.length; i += 4) if (samples[i] !== 0) return false
  return true
}

function solid(frame: Frame): Frame {
  const samples = frame.samples.slice()
  for (let i = 3; i < samples.length; i += 4) samples[i] = fullCode(frame.depth)
  return { ...frame, samples }
}

/** Whether any file of a clip has alpha, asked from the middle outward: what fades in is solid there. */
async function clipHasAlpha(codec: StillCodec, files: readonly FileRef[], host: Host): Promise<boolean> {
  const middle = files.length >> 1
  for (let n = 0; n < files.length; n++) {
    const index = middle + (n % 2 ? -((n + 1) >> 1) : n >> 1)
    const reader = await host.openFile(files[(index + files.length) % files.length]!)
    try {
      // a damaged picture is told where it is read, and has no say here
      if (await codec.anyAlpha!(reader).catch(passDamage)) return true
    } finally {
      await reader.close()
    }
  }
  return false
}

function passDamage(error: unknown): false {
  if (error instanceof PourError && error.kind === 'unreadable') return false
  throw error
}

/** Bytes of a file of pages that are kept while it is open. */
const MOST_HELD = 1 << 28

/** What is told of further pages in the files of a sequence. */
function leftPages(pages: number): Finding[] {
  if (pages < 2) return []
  const sentence = `Its files hold ${pages} pages each; of every file the first is taken.`
  return [{ id: 'pages', severity: 'warning', frames: [], sentence }]
}

interface Opening {
  name: string
  files: readonly FileRef[]
  host: Host
  layer?: string | undefined
}

async function openPictures(
  codec: StillCodec,
  decode: StillCodec['decode'],
  { name, files, host, layer }: Opening
): Promise<OpenedPictures> {
  const first = await host.openFile(files[0]!)
  const about = await codec.about(first, layer)
  const within = (await codec.pages?.(first)) ?? []
  await first.close()
  // a file of several pages is a sequence by itself; in a sequence of files the first page of each counts
  const pages = files.length === 1 && within.length > 1 ? within : null
  const frames = pages?.length ?? files.length
  const facts: OpenedPictures['facts'] = {
    name,
    kind: pages ? `${about.kind} of ${frames} pages` : `${about.kind} ${frames === 1 ? 'picture' : 'sequence'}`,
    width: about.width,
    height: about.height,
    frames,
    intra: true,
    rate: about.rate ?? null,
    rateFrom: about.rate ? 'file' : 'unknown',
    bitDepth: about.bitDepth,
    claim: about.claim,
    colour: about.colour,
    ...(about.tags ? { tags: about.tags } : {}),
    ...(about.levels ? { levels: about.levels } : {}),
    ...(about.timecode ? { timecode: about.timecode } : {}),
    ...(about.layers ? { layers: about.layers, layer: about.layer } : {}),
    pixelAspect: about.pixelAspect ?? [1, 1],
    plays: null,
    bytes: files.reduce((sum, file) => sum + file.size, 0),
    findings: [...(about.findings ?? []), ...(files.length > 1 ? leftPages(within.length) : [])]
  }
  let alphaThere: Promise<boolean> | null = null
  /** Alpha that no picture of the clip has is none. */
  async function settled(frame: Frame): Promise<Frame> {
    if (!codec.anyAlpha || !isClear(frame)) return frame
    alphaThere ??= clipHasAlpha(codec, files, host)
    return (await alphaThere) ? frame : solid(frame)
  }
  /** The file of pages, while it is small enough to be kept from one to the next. */
  let held: Uint8Array | null = null
  return {
    facts,
    async frame(index) {
      const file = pages ? files[0] : files[index]
      if (!file || !(index >= 0 && index < frames))
        throw unreadable(name, `frame ${index + 1}`, `the sequence has ${frames} frames`)
      const reader = await host.openFile(file)
      try {
        const bytes = held ?? (await readAll(reader))
        if (pages && bytes.length <= MOST_HELD) held = bytes
        const frame = await decode(host, memoryReader(reader.name, bytes), {
          ...(pages ? { page: pages[index]! } : {}),
          ...(layer === undefined ? {} : { layer })
        })
        if (frame.width !== facts.width || frame.height !== facts.height)
          throw unreadable(
            reader.name,
            pages ? `page ${index + 1}` : null,
            `the picture is ${frame.width}x${frame.height}; the sequence is ${facts.width}x${facts.height}`
          )
        return await settled(frame)
      } finally {
        await reader.close()
      }
    },
    close: () => Promise.resolve()
  }
}

type Shared =
  | 'mime'
  | 'delivers'
  | 'carries'
  | 'recognise'
  | 'measure'
  | 'open'
  | 'openForProof'
  | 'encode'
  | 'assemble'
  | 'wrappedSize'
  | 'refusesRate'

/** A kind of one picture a file. */
export function picturesOf(own: Omit<PictureKind, Shared>, codec: StillCodec): PictureKind {
  return {
    mime: 'application/zip',
    delivers: 'pictures',
    carries: 'colour and alpha in every picture',
    refusesRate: () => null,
    ...own,
    async recognise(head, reader) {
      return (await codec.recognises(head, reader)) ? 'picture' : null
    },
    async measure(reader) {
      const { width, height, bitDepth, claim } = await codec.about(reader)
      return { width, height, bitDepth, claim }
    },
    open: (name, files, host, layer) => openPictures(codec, codec.decode, { name, files, host, layer }),
    openForProof: (name, files, host, layer) =>
      openPictures(codec, codec.proofDecode ?? codec.decode, { name, files, host, layer }),
    encode: async (host, frame, deliverable) => codec.encode(host, frame, deliverable),
    assemble(target, deliverable) {
      if (target.kind !== 'pictures') throw new TypeError('a sequence is delivered as pictures')
      return Promise.resolve({
        add: (index, encoded) => target.sink.add(deliverable.names[index]!, encoded),
        finish: () => Promise.resolve()
      })
    },
    // 30 bytes of local header, 46 of directory, 16 of data descriptor for each file, and its name twice
    wrappedSize: (encoded, deliverable) =>
      encoded + 22 + deliverable.names.reduce((sum, name) => sum + 92 + 2 * name.length, 0)
  }
}
