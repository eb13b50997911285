/** What every picture sequence shares: files of one picture each, all of one size, named by the plan of the pour. */
import { unreadable } from '../../errors'
import { memoryReader, readAll, type ByteReader, type FileRef } from '../../files/file'
import type { Frame } from '../../frame/frame'
import type { Host } from '../../host'
import type { SourceFacts } from '../../source/source'
import type { Deliverable, OpenedPictures, PictureKind } from '../../formats/format'

/** What a picture file says before its pixels are read. */
export interface PictureAbout extends Pick<SourceFacts, 'width' | 'height' | 'bitDepth' | 'claim' | 'colour'> {
  /** "TIFF", "OpenEXR, half": the kind of one picture. */
  kind: string
  rate?: SourceFacts['rate']
  pixelAspect?: SourceFacts['pixelAspect']
  findings?: SourceFacts['findings']
}

export interface PictureCodec {
  /** Whether these first bytes are of this kind. May look further, as animated files begin like still ones. */
  recognises(head: Uint8Array, reader: ByteReader): boolean | Promise<boolean>
  about(reader: ByteReader): Promise<PictureAbout>
  decode(host: Host, reader: ByteReader): Promise<Frame>
  /** The proof's decoder, where another than `decode` can be had. */
  proofDecode?(host: Host, reader: ByteReader): Promise<Frame>
  encode(host: Host, frame: Frame, deliverable: Deliverable): Uint8Array | Promise<Uint8Array>
}

async function openPictures(
  codec: PictureCodec,
  decode: PictureCodec['decode'],
  name: string,
  files: readonly FileRef[],
  host: Host
): Promise<OpenedPictures> {
  const first = await host.openFile(files[0]!)
  const about = await codec.about(first)
  await first.close()
  const facts: OpenedPictures['facts'] = {
    name,
    kind: `${about.kind} ${files.length === 1 ? 'picture' : 'sequence'}`,
    width: about.width,
    height: about.height,
    frames: files.length,
    rate: about.rate ?? null,
    rateFrom: about.rate ? 'file' : 'unknown',
    bitDepth: about.bitDepth,
    claim: about.claim,
    colour: about.colour,
    pixelAspect: about.pixelAspect ?? [1, 1],
    plays: null,
    bytes: files.reduce((sum, file) => sum + file.size, 0),
    findings: about.findings ?? []
  }
  return {
    facts,
    async frame(index) {
      const file = files[index]
      if (!file) throw unreadable(name, `frame ${index + 1}`, `the sequence has ${files.length} frames`)
      const reader = await host.openFile(file)
      try {
        const frame = await decode(host, memoryReader(reader.name, await readAll(reader)))
        if (frame.width !== facts.width || frame.height !== facts.height)
          throw unreadable(
            reader.name,
            null,
            `the picture is ${frame.width}x${frame.height}; the sequence is ${facts.width}x${facts.height}`
          )
        return frame
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
export function picturesOf(own: Omit<PictureKind, Shared>, codec: PictureCodec): PictureKind {
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
    open: (name, files, host) => openPictures(codec, codec.decode, name, files, host),
    openForProof: (name, files, host) => openPictures(codec, codec.proofDecode ?? codec.decode, name, files, host),
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
