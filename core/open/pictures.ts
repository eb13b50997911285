/** The rows that are pictures, one a frame or moving in one file: what each kind is called, and what it is good for. */
import { apng } from '../media/pictures/apng'
import { avifSequence } from '../media/pictures/avif'
import { bmpSequence } from '../media/pictures/bmp'
import { dpxSequence } from '../media/pictures/dpx'
import { exrSequence } from '../media/pictures/exr'
import { gif } from '../media/pictures/gif'
import { jpeg2000Sequence } from '../media/pictures/jpeg2000'
import { jxlSequence } from '../media/pictures/jxl'
import { jpegSequence } from '../media/pictures/jpeg'
import { pngSequence } from '../media/pictures/png-sequence'
import { qoiSequence } from '../media/pictures/qoi'
import { pngSheet } from '../media/pictures/sheet'
import { packedSheet } from '../media/pictures/sheet/packed'
import { tgaSequence } from '../media/pictures/tga'
import { tiffSequence } from '../media/pictures/tiff'
import { modelKind } from '../draw/model/format'
import { sceneKind } from '../draw/scene/format'
import { vectorKind } from '../draw/vector/format'
import { svgKind } from '../draw/vector/svg/format'
import { webpAnimated, webpSequence } from '../media/pictures/webp'
import type { Format, OpenedPictures, PictureKind } from '../media/formats/format'
import type { Source } from '../source/source'

type Row<I extends string> = Pick<Format<I>, 'id' | 'name' | 'tag' | 'uses' | 'page' | 'readOnly'> & {
  kind: PictureKind
}

function pictureFormat<const I extends string>({ kind, ...row }: Row<I>): Format<I> {
  const named = (source: OpenedPictures): Source => ({ ...source, facts: { ...source.facts, format: row.id } })
  return {
    ...kind,
    ...row,
    open: async (...files) => named(await kind.open(...files)),
    openForProof: async (...files) => named(await kind.openForProof(...files))
  }
}

export const pictures = [
  // before the other kinds of PNG, one of which it is as well
  pictureFormat({
    id: 'png-sheet',
    name: 'PNG sheet',
    tag: 'PNG sheet',
    uses: ['sheet'],
    page: { element: 'picture', type: 'image/png', moves: false, order: 0 },
    kind: pngSheet
  }),
  pictureFormat({
    id: 'packed-sheet',
    name: 'Packed PNG sheet',
    tag: 'packed sheet',
    uses: ['sheet'],
    kind: packedSheet
  }),
  pictureFormat({
    id: 'png-sequence',
    name: 'PNG sequence',
    tag: 'PNG sequence',
    uses: ['master', 'for-engines', 'archival', 'everywhere'],
    page: { element: 'picture', type: 'image/png', moves: false, order: 0 },
    kind: pngSequence
  }),
  pictureFormat({
    id: 'tiff-sequence',
    name: 'TIFF sequence',
    tag: 'TIFF sequence',
    uses: ['master', 'archival'],
    kind: tiffSequence
  }),
  pictureFormat({
    id: 'exr-sequence',
    name: 'OpenEXR sequence',
    tag: 'EXR sequence',
    uses: ['master', 'archival'],
    kind: exrSequence
  }),
  pictureFormat({
    id: 'dpx-sequence',
    name: 'DPX sequence',
    tag: 'DPX sequence',
    uses: ['master', 'seldom'],
    kind: dpxSequence
  }),
  pictureFormat({
    id: 'webp-sequence',
    name: 'WebP sequence',
    tag: 'WebP sequence',
    uses: ['for-engines', 'compact'],
    page: { element: 'picture', type: 'image/webp', moves: false, order: 0 },
    kind: webpSequence
  }),
  pictureFormat({
    id: 'tga-sequence',
    name: 'TGA sequence',
    tag: 'TGA sequence',
    uses: ['master', 'for-engines'],
    kind: tgaSequence
  }),
  pictureFormat({
    id: 'apng',
    name: 'Animated PNG',
    tag: 'APNG',
    uses: ['everywhere', 'decks', 'stickers'],
    page: { element: 'picture', type: 'image/png', moves: true, order: 5 },
    kind: apng
  }),
  pictureFormat({
    id: 'webp-animated',
    name: 'Animated WebP',
    tag: 'WebP animation',
    uses: ['stickers', 'compact'],
    page: { element: 'picture', type: 'image/webp', moves: true, order: 4 },
    kind: webpAnimated
  }),
  pictureFormat({
    id: 'gif',
    name: 'GIF',
    tag: 'GIF',
    uses: ['hard-edges', 'everywhere', 'decks', 'stickers'],
    page: { element: 'picture', type: 'image/gif', moves: true, order: 6 },
    kind: gif
  }),
  pictureFormat({
    id: 'jpeg-sequence',
    name: 'JPEG sequence',
    tag: 'JPEG sequence',
    readOnly: 'JPEG has no alpha; it is read so that a matte can be pulled from it.',
    uses: [],
    page: { element: 'picture', type: 'image/jpeg', moves: false, order: 0 },
    kind: jpegSequence
  }),
  pictureFormat({
    id: 'avif-sequence',
    name: 'AVIF stills',
    tag: 'AVIF stills',
    uses: ['compact'],
    page: { element: 'picture', type: 'image/avif', moves: false, order: 0 },
    kind: avifSequence
  }),
  pictureFormat({
    id: 'jpeg2000-sequence',
    name: 'JPEG 2000 pictures',
    tag: 'JPEG 2000',
    readOnly: 'It is read without alpha, as a plate or a matte: no decoder at hand takes a fourth component.',
    uses: [],
    kind: jpeg2000Sequence
  }),
  pictureFormat({
    id: 'scene',
    name: 'Scene',
    tag: 'scene',
    readOnly: 'A scene is rendered to frames, which any format may hold.',
    uses: [],
    kind: sceneKind
  }),
  pictureFormat({
    id: 'vector-animation',
    name: 'Vector animation',
    tag: 'vector animation',
    readOnly: 'A vector animation is drawn to frames, which any format may hold.',
    uses: [],
    kind: vectorKind
  }),
  pictureFormat({
    id: 'model',
    name: 'Model (glTF)',
    tag: 'glTF model',
    readOnly: 'A model is drawn to frames, which any format may hold.',
    uses: [],
    kind: modelKind
  }),
  pictureFormat({
    id: 'svg',
    name: 'SVG picture',
    tag: 'SVG',
    readOnly: 'An SVG picture is drawn to a frame, which any format may hold.',
    uses: [],
    kind: svgKind
  }),
  pictureFormat({
    id: 'jxl-sequence',
    name: 'JPEG XL sequence',
    tag: 'JXL sequence',
    uses: ['seldom', 'compact'],
    kind: jxlSequence
  }),
  pictureFormat({
    id: 'bmp-sequence',
    name: 'BMP sequence',
    tag: 'BMP sequence',
    readOnly: 'BMP is read as it comes; PNG holds the same, smaller, and says how its alpha is meant.',
    uses: [],
    kind: bmpSequence
  }),
  pictureFormat({
    id: 'qoi-sequence',
    name: 'QOI sequence',
    tag: 'QOI sequence',
    readOnly: 'QOI is read as it comes; hardly a program takes it, and PNG holds the same.',
    uses: [],
    kind: qoiSequence
  })
]
