/**
 * AVIF stills (ISO/IEC 23000-22 over 23008-12), written by a library's encoder and read by the machine's decoder. Size,
 * alpha and its mode come from the item properties: "ispe" holds a size, "auxC" with the alpha type marks an alpha
 * picture, a reference "prem" says that colour is premultiplied by it.
 */
import { MOST_PROFILE, profiled, readProfile } from '../../colour-profile'
import { isWide, sayTags } from '../../../frame/colour-tags'
import { impossible, unreadable } from '../../../base/errors'
import { readAll, type ByteReader } from '../../../base/files/file'
import { Cursor } from '../../../base/files/view'
import { OPAQUE, STRAIGHT } from '../../../frame/frame'
import { listAtoms } from '../../containers/quicktime/atoms'
import type { Finding } from '../../../source/source'
import { decodeByMachine } from '../sequence/machine'
import { picturesOf } from '../sequence/pictures'
import { qualityOf, stillCoding } from '../still-coding'

const ALPHA_TYPES = ['urn:mpeg:mpegB:cicp:systems:auxiliary:alpha', 'urn:mpeg:hevc:2015:auxid:1']
/** Boxes that hold boxes, and the bytes before those. */
const HOLDERS: Record<string, number> = { meta: 4, iprp: 0, ipco: 0, iref: 4 }

interface AvifInfo {
  width: number
  height: number
  alpha: boolean
  premultiplied: boolean
  /** What its colours are said to be, where that is not sRGB: by a profile, or by number. */
  wide: { says: string; by: 'profile' | 'number' } | null
}

/** Boxes lie no deeper in one another than this where properties stand. */
const MOST_DEPTH = 6

/** What a box of colour information says, where that is not sRGB (ISO/IEC 14496-12, 12.1.5). */
async function coloursAt(reader: ByteReader, offset: number, length: number): Promise<AvifInfo['wide']> {
  if (length < 10) return null
  const bytes = await reader.read(offset, Math.min(length, MOST_PROFILE))
  const kind = String.fromCharCode(...bytes.subarray(0, 4))
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (kind === 'nclx') {
    const tags = [view.getUint16(4), view.getUint16(6), view.getUint16(8)] as const
    return isWide(tags) ? { says: sayTags(tags), by: 'number' } : null
  }
  if (kind !== 'prof' && kind !== 'rICC') return null
  const { colour, tags, findings } = profiled(readProfile(bytes.subarray(4)))
  return tags || findings.length ? { says: colour ?? 'another profile', by: 'profile' } : null
}

/** What is to be told of colours that the machine's decoder may change on its way. */
function colourFindings({ wide }: AvifInfo): Finding[] {
  if (!wide) return []
  return [
    {
      id: 'colour-brought',
      severity: 'warning',
      frames: [],
      sentence:
        wide.by === 'profile'
          ? `Its colour is ${wide.says}. The machine's decoder brings it to sRGB; what that cannot hold is cut off.`
          : `Its colour is said to be ${wide.says}. A browser brings it to sRGB, and other decoders leave the ` +
            'codes as they are: look at it before it is sent on.'
    }
  ]
}

/** What the boxes between `from` and `to` say, added to `info`. */
async function look(reader: ByteReader, from: number, to: number, info: AvifInfo, depth = 0): Promise<void> {
  if (depth > MOST_DEPTH) throw unreadable(reader.name, `byte ${from}`, 'its boxes lie too deep in each other')
  for (const { type, offset, length } of await listAtoms(reader, from, to)) {
    const skip = HOLDERS[type]
    if (skip !== undefined) await look(reader, offset + Math.min(skip, length), offset + length, info, depth + 1)
    else if (type === 'colr') info.wide ??= await coloursAt(reader, offset, length)
    else if (type === 'prem') info.premultiplied = true
    else if (type === 'ispe' || type === 'auxC') {
      const cursor = new Cursor(await reader.read(offset, Math.min(length, 68)), reader.name, false)
      if (type === 'auxC') info.alpha ||= ALPHA_TYPES.includes(cursor.text(4, 64))
      else if (cursor.u32(4) * cursor.u32(8) > info.width * info.height)
        Object.assign(info, { width: cursor.u32(4), height: cursor.u32(8) })
    }
  }
}

async function readInfo(reader: ByteReader): Promise<AvifInfo> {
  const info: AvifInfo = { width: 0, height: 0, alpha: false, premultiplied: false, wide: null }
  await look(reader, 0, reader.size, info)
  if (info.width === 0 || info.height === 0) throw unreadable(reader.name, null, 'it says no size')
  return info
}

function looksLikeAvif(head: Uint8Array): boolean {
  if (head.length < 16 || String.fromCharCode(...head.subarray(4, 8)) !== 'ftyp') return false
  return String.fromCharCode(...head.subarray(8, 64)).includes('avif')
}

export const avifSequence = picturesOf(
  {
    extension: 'avif',
    lossless: false,
    exactAlpha: true,
    exact: options => qualityOf(options) === null,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: {
      straight: { can: true, declares: 'an alpha picture beside the colour' },
      premultiplied: {
        can: false,
        because: 'The encoder at hand writes straight alpha alone; a premultiplied file is read.'
      },
      none: { can: true, declares: 'no alpha picture' }
    },
    declaredMattes: [],
    limits: { width: 16384, height: 16384, rate: 'carries no rate; the name and the note do' },
    options: {
      ...stillCoding('Lossless keeps every code. Lossy changes colour only; its alpha is exact.', 70),
      effort: {
        label: 'Search',
        help: 'Small takes about seven times as long, for a few per cent.',
        type: 'choice',
        row: true,
        choices: [
          { value: 'fast', label: 'fast' },
          { value: 'small', label: 'small' }
        ],
        default: 'fast'
      }
    },
    needs: 'pictures',
    proofReader: { name: "the machine's own decoder", independent: true }
  },
  {
    recognises: looksLikeAvif,
    async about(reader) {
      const info = await readInfo(reader)
      const { width, height, alpha, premultiplied } = info
      const claim = !alpha
        ? ({ mode: 'none', matte: null, says: 'no alpha picture in the file' } as const)
        : premultiplied
          ? ({ mode: 'premultiplied', matte: '#000000', says: 'an alpha picture, and a reference "prem"' } as const)
          : ({ mode: 'straight', matte: null, says: 'an alpha picture and no reference "prem": straight' } as const)
      return { kind: 'AVIF', width, height, bitDepth: 8, claim, colour: null, findings: colourFindings(info) }
    },
    async decode(host, reader) {
      const { alpha } = await readInfo(reader)
      // decoders hand out straight colour, whatever the file holds
      return decodeByMachine(host, reader.name, await readAll(reader), 'image/avif', alpha ? STRAIGHT : OPAQUE)
    },
    async encode(host, frame, { options }) {
      if (!host.avif) throw impossible('there is no AVIF encoder on this machine')
      return host.avif(frame.samples as Uint8Array, frame.width, frame.height, {
        quality: qualityOf(options),
        effort: options.effort === 'small' ? 'small' : 'fast'
      })
    }
  }
)
