/** SVG files as sources: still pictures, drawn at the size asked for, over nothing. */
import { damagedBy, unreadable } from '../../../base/errors'
import { readAll, type ByteReader, type FileRef } from '../../../base/files/file'
import type { OpenedPictures } from '../../../media/formats/format'
import { renderedFacts, renderedKind } from '../../../media/formats/rendered'
import { straightCodes } from '../../../frame/straight-codes'
import type { Host } from '../../../frame/host'
import { leftOutFindings } from '../left-out'
import { askedSize, sizesOf } from '../sizes'
import { readDrawing, type Drawing } from './drawing'
import { looksLikeSvg, MOST_BYTES } from './tree'

async function drawingOf(reader: ByteReader): Promise<Drawing> {
  if (reader.size > MOST_BYTES)
    throw unreadable(reader.name, null, `an SVG file of ${reader.size} bytes is longer than can be taken`)
  return readDrawing(new TextDecoder().decode(await readAll(reader)), reader.name)
}

/** What throws becomes what rejects. */
const inOneTurn = <T>(work: () => T): Promise<T> => Promise.resolve().then(work)

async function open(name: string, file: FileRef, host: Host, size?: string): Promise<OpenedPictures> {
  const reader = await host.openFile(file)
  const drawing = await (await drawingOf(reader).finally(() => reader.close())).prepared(host)
  const { width, height } = askedSize(size, drawing)
  const { leftOut } = drawing
  return {
    facts: {
      ...renderedFacts({
        name,
        kind: 'SVG picture',
        width,
        height,
        frames: 1,
        rate: null,
        bytes: file.size,
        findings: leftOutFindings(leftOut)
      }),
      rateFrom: 'unknown',
      ...sizesOf(drawing, { width, height })
    },
    frame: index =>
      inOneTurn(() => {
        if (index !== 0) throw unreadable(name, `frame ${index + 1}`, 'an SVG file is one picture')
        try {
          return straightCodes(drawing.at(width, height), width, height)
        } catch (error) {
          throw damagedBy(error, why => unreadable(name, null, `it cannot be drawn (${why})`))
        }
      }),
    close: () => Promise.resolve()
  }
}

export const svgKind = renderedKind({
  plural: 'SVG pictures',
  carries: 'fills, strokes, gradients, lettering, markers and pictures over nothing',
  proofReader: { name: "Pour's own drawing", independent: false },
  recognise: (head, reader) =>
    Promise.resolve(reader.size <= MOST_BYTES && looksLikeSvg(new TextDecoder().decode(head)) ? 'film' : null),
  async measure(reader) {
    const { width, height } = await drawingOf(reader)
    return { width, height }
  },
  open
})
