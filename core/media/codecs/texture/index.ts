/**
 * Texture films: frames as blocks that graphics hardware shows as they are, packed by a fast byte compressor. Colour
 * and alpha in one texture (BC3), or luma and scaled chroma in one and alpha in another.
 */
import { unreadable } from '../../../base/errors'
import type { Fields, OptionValues } from '../../../base/settings/field'
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { TextureHow, TextureKind } from '../../../frame/kernels/coded'
import type { FrameSize } from '../../../frame/kernels/kernels'
import { textureBytes } from '../../../frame/kernels/wasm-texture'
import type { Deliverable } from '../../formats/deliverable'
import { standalone, type Coder, type VideoCodec } from '../codec'
import { readTextures, texturesIn, writeTextures, type PacketPlace } from './sections'

/** What blocks hold, by the lower four bits of a texture's type. */
const KINDS: Readonly<Record<number, TextureKind>> = { 0xb: 'colour', 0xe: 'colour-alpha', 0xf: 'scaled', 0x1: 'alpha' }
const HOLDS: Readonly<Record<TextureHow['kind'], number>> = {
  colour: 0xb,
  'colour-alpha': 0xe,
  scaled: 0xf,
  alpha: 0x1
}

/** Blocks that are told of and not read. */
const UNREAD: Readonly<Record<number, string>> = {
  0xc: 'BC7',
  0x2: 'BC6H with a sign',
  0x3: 'BC6H'
}

const WORDS: Readonly<Record<TextureKind, string>> = {
  colour: 'colour (BC1)',
  'colour-alpha': 'colour and alpha (BC3)',
  scaled: 'luma and scaled chroma (BC3)',
  alpha: 'alpha (BC4)',
  grey: 'grey (BC4)'
}

const EFFORTS = ['fast', 'fair', 'fine'] as const

const OPTIONS: Fields = {
  effort: {
    label: 'Search for blocks',
    help: 'Fast takes the box of a block\u2019s colours; fair the line that they lie along; fine tries what lies around it.',
    type: 'choice',
    row: true,
    choices: [
      { value: 'fast', label: 'fast' },
      { value: 'fair', label: 'fair' },
      { value: 'fine', label: 'fine' }
    ],
    default: 'fair'
  },
  parts: {
    label: 'Parts a texture',
    help: 'Packed apart, so that a player\u2019s threads unpack them side by side.',
    type: 'number',
    whole: true,
    min: 1,
    max: 64,
    default: 4
  }
}

/** The kind of a texture's blocks. Throws where they are of a kind that is not read. */
function kindOf(holds: number, { file, place }: PacketPlace): TextureKind {
  const kind = KINDS[holds]
  if (kind) return kind
  throw unreadable(file, place, `its blocks are ${UNREAD[holds] ?? `of kind ${holds}`}, which is not read`)
}

/** A frame from its packet. */
function decoded(packet: Uint8Array, { width, height }: FrameSize, where: PacketPlace, { kernels }: Host): Frame {
  const size = { width, height }
  const sizeOf = (holds: number): number => textureBytes(size, kindOf(holds, where))
  const textures = readTextures(packet, sizeOf, where).map(({ holds, blocks }) => ({
    kind: kindOf(holds, where),
    blocks
  }))
  const colour = textures.find(({ kind }) => kind !== 'alpha')
  const alpha = textures.find(({ kind }) => kind === 'alpha')
  // what makes no picture together is told, not left out
  if (textures.length > 1 && (textures.length > 2 || !colour || !alpha || colour.kind === 'colour-alpha'))
    throw unreadable(where.file, where.place, `its ${textures.length} textures make no picture of colour and alpha`)
  const rest = { width, height, depth: 8, transfer: 'srgb' } as const
  // alpha by itself is a matte: a grey picture, as matte films are
  if (!colour) return { ...rest, samples: kernels.textureDecode(alpha!.blocks, size, 'grey'), alpha: OPAQUE }
  const shown = kernels.textureDecode(colour.blocks, size, colour.kind)
  if (alpha) return { ...rest, samples: kernels.textureDecode(alpha.blocks, size, 'alpha', shown), alpha: STRAIGHT }
  return { ...rest, samples: shown, alpha: colour.kind === 'colour-alpha' ? STRAIGHT : OPAQUE }
}

/** A way to make frames: the textures they are made of, and how films of it are called. */
interface Making {
  code: string
  name: string
  kinds: readonly TextureHow['kind'][]
}

/** The coder of films with alpha, and of such without. */
function coderOf(withAlpha: Making, without: Making): Coder {
  const making = ({ alpha }: Pick<Deliverable, 'alpha'>): Making => (alpha.mode === 'none' ? without : withAlpha)
  const effortOf = ({ effort }: OptionValues): 0 | 1 | 2 =>
    Math.max(0, EFFORTS.indexOf(String(effort ?? 'fair') as (typeof EFFORTS)[number])) as 0 | 1 | 2
  return {
    lossless: false,
    exactAlpha: false,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    // what graphics hardware takes
    limits: { width: 16384, height: 16384 },
    options: OPTIONS,
    entry(deliverable) {
      const { code, name } = making(deliverable)
      return { code, name, depth: deliverable.alpha.mode === 'none' ? 24 : 32 }
    },
    encode(host, { samples, width, height, alpha }, { options }) {
      const how = { effort: effortOf(options), byAlpha: alpha.mode === 'straight' }
      const textures = making({ alpha }).kinds.map(kind => ({
        holds: HOLDS[kind],
        blocks: host.kernels.textureEncode(samples as Uint8Array, { width, height }, { ...how, kind })
      }))
      const blockOf = (holds: number): number => textureBytes({ width: 4, height: 4 }, KINDS[holds]!)
      return Promise.resolve(writeTextures(textures, Number(options.parts ?? 4), blockOf))
    }
  }
}

const READ: Omit<VideoCodec, 'names' | 'coder'> = {
  about(_, first, file) {
    const where = { file, place: 'frame 1' }
    const kinds = texturesIn(first, where).map(({ type }) => kindOf(type & 15, where))
    return {
      kind: `texture film, ${kinds.map(kind => WORDS[kind === 'alpha' && kinds.length === 1 ? 'grey' : kind]).join(', ')}`,
      bitDepth: 8,
      carriesAlpha: kinds.includes('colour-alpha') || (kinds.length > 1 && kinds.includes('alpha'))
    }
  },
  decoder: (packets, host) =>
    Promise.resolve(
      standalone(packets, (data, place) =>
        Promise.resolve(decoded(data, packets.track, { file: packets.file, place }, host))
      )
    ),
  proofReader: { name: "Pour's own texture reader, tested on films of other writers", independent: false }
}

/** Colour and alpha in one texture; colour alone in half of the bytes. */
export const textureAlpha: VideoCodec = {
  ...READ,
  names: { quicktime: ['Hap5', 'Hap1'] },
  coder: coderOf(
    { code: 'Hap5', name: 'BC3 texture', kinds: ['colour-alpha'] },
    { code: 'Hap1', name: 'BC1 texture', kinds: ['colour'] }
  )
}

/** Luma and scaled chroma in one texture, alpha in another; alpha alone is read as a grey picture. */
export const textureScaled: VideoCodec = {
  ...READ,
  names: { quicktime: ['HapM', 'HapY', 'HapA'] },
  coder: coderOf(
    { code: 'HapM', name: 'YCoCg and BC4 textures', kinds: ['scaled', 'alpha'] },
    { code: 'HapY', name: 'YCoCg texture', kinds: ['scaled'] }
  )
}
