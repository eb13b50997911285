/**
 * JPEG pictures (ITU-T T.81), read only: they have no alpha, and are brought in to pull a matte from or to lay beneath.
 * The size is read from the frame header; the picture is decoded by the machine.
 */
import { impossible, unreadable } from '../../../base/errors'
import { readAll, type ByteReader } from '../../../base/files/file'
import { Cursor } from '../../../base/files/view'
import { OPAQUE } from '../../../frame/frame'
import { oriented, orientationOf, type Orientation } from '../../../frame/orient'
import { decodeByMachine } from '../sequence/machine'
import { picturesOf, type PictureAbout } from '../sequence/pictures'
import { upright } from '../sequence/upright'

/** Start-of-frame markers of baseline, extended and progressive pictures. */
const FRAME_HEADERS = [0xc0, 0xc1, 0xc2]

export interface JpegInfo {
  width: number
  height: number
  components: number
  orientation: Orientation
}

/** The orientation that an Exif block says (Exif 2.3, 4.6.4): a TIFF directory behind "Exif" and two zero bytes. */
function exifOrientation(block: Uint8Array, file: string): Orientation {
  if (String.fromCharCode(...block.subarray(0, 6)) !== 'Exif\0\0' || block.length < 18) return 1
  const tiff = block.subarray(6)
  const cursor = new Cursor(tiff, file, tiff[0] === 0x49)
  const directory = cursor.u32(4)
  if (directory + 2 > tiff.length) return 1
  for (let i = 0; i < cursor.u16(directory); i++) {
    const at = directory + 2 + 12 * i
    if (at + 12 > tiff.length) return 1
    if (cursor.u16(at) === 274) return orientationOf(cursor.u16(at + 8))
  }
  return 1
}

/** Size, components and orientation, from the file's markers. */
export async function readJpegInfo(reader: ByteReader): Promise<JpegInfo> {
  const cursor = new Cursor(await reader.read(0, 1 << 20), reader.name, false)
  let orientation: Orientation = 1
  for (let at = 2; ;) {
    if (cursor.u8(at) !== 0xff) throw unreadable(reader.name, `byte ${at}`, 'a marker is missing')
    const marker = cursor.u8(at + 1)
    if (marker === 0xff) {
      at++
      continue
    }
    if (FRAME_HEADERS.includes(marker)) {
      const [height, width, components] = [cursor.u16(at + 5), cursor.u16(at + 7), cursor.u8(at + 9)]
      if (cursor.u8(at + 4) !== 8)
        throw unreadable(reader.name, `byte ${at}`, `samples of ${cursor.u8(at + 4)} bits are not read`)
      if (width === 0 || height === 0) throw unreadable(reader.name, `byte ${at}`, 'the picture has no size')
      return { width, height, components, orientation }
    }
    if (
      marker === 0xda ||
      marker === 0xd9 ||
      (marker >= 0xc3 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc)
    )
      throw unreadable(reader.name, `byte ${at}`, 'its way of coding is not read')
    const length = cursor.u16(at + 2)
    if (length < 2) throw unreadable(reader.name, `byte ${at}`, 'a marker has no length')
    // other blocks than Exif come under the same marker, and say nothing of it
    if (marker === 0xe1 && orientation === 1)
      orientation = exifOrientation(cursor.slice(at + 4, length - 2), reader.name)
    at += 2 + length
  }
}

export const jpegSequence = picturesOf(
  {
    extension: 'jpg',
    lossless: false,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 0 }],
    alpha: {
      straight: { can: false, because: 'JPEG has no alpha.' },
      premultiplied: { can: false, because: 'JPEG has no alpha.' },
      none: { can: true, declares: 'always' }
    },
    declaredMattes: [],
    limits: { width: 65535, height: 65535, rate: 'carries no rate; the name and the note do' },
    options: {},
    needs: 'pictures',
    proofReader: { name: "the machine's own decoder", independent: true }
  },
  {
    recognises: head => head[0] === 0xff && head[1] === 0xd8 && head[2] === 0xff,
    async about(reader) {
      const { width, height, components, orientation } = await readJpegInfo(reader)
      const about: PictureAbout = {
        kind: components === 1 ? 'JPEG, grey' : 'JPEG',
        width,
        height,
        bitDepth: 8,
        claim: { mode: 'none', matte: null, says: 'JPEG has no alpha' },
        colour: null
      }
      return upright(about, orientation)
    },
    async decode(host, reader) {
      const { orientation } = await readJpegInfo(reader)
      return oriented(
        await decodeByMachine(host, reader.name, await readAll(reader), 'image/jpeg', OPAQUE),
        orientation
      )
    },
    encode: () => Promise.reject(impossible('JPEG is read, not written'))
  }
)
