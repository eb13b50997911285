/**
 * Models (glTF 2.0, ISO/IEC 12113): what a file says of itself, and whether it may be drawn. The drawing is the host's.
 */
import { z } from 'zod'
import { unreadable } from '../../base/errors'

export const MOST_BYTES = 256 << 20
const MOST_NODES = 50_000
/** Bytes that accessors may come to once they are laid out. */
const MOST_LAID_OUT = 1 << 30
const MOST_SECONDS = 600

/** Seconds of a turn where nothing in the file moves. */
const TURN = 4

const GLB = 0x46546c67
const JSON_CHUNK = 0x4e4f534a

const count = z.number().int().min(0)
const Accessor = z.object({
  count,
  type: z.string(),
  componentType: z.number(),
  bufferView: count.optional(),
  min: z.array(z.number()).optional(),
  max: z.array(z.number()).optional()
})
const Named = z.object({ uri: z.string().optional() })

const Gltf = z.object({
  asset: z.object({ version: z.string() }),
  scenes: z.array(z.unknown()).optional(),
  nodes: z.array(z.unknown()).optional(),
  accessors: z.array(Accessor).optional(),
  buffers: z.array(Named).optional(),
  images: z.array(Named).optional(),
  cameras: z.array(z.unknown()).optional(),
  animations: z
    .array(z.object({ name: z.string().optional(), samplers: z.array(z.object({ input: count })) }))
    .optional(),
  extensionsRequired: z.array(z.string()).optional(),
  extensionsUsed: z.array(z.string()).optional()
})
type Gltf = z.infer<typeof Gltf>

/** Extensions that the library draws without a decoder of its own. */
const DRAWN = [
  ...['KHR_materials_unlit', 'KHR_materials_emissive_strength', 'KHR_materials_ior', 'KHR_materials_specular'],
  ...['KHR_materials_clearcoat', 'KHR_materials_sheen', 'KHR_materials_transmission', 'KHR_materials_volume'],
  ...['KHR_materials_anisotropy', 'KHR_materials_iridescence', 'KHR_texture_transform', 'KHR_mesh_quantization'],
  ...[
    'KHR_lights_punctual',
    'EXT_texture_webp',
    'EXT_texture_avif',
    'EXT_mesh_gpu_instancing',
    'KHR_materials_dispersion'
  ]
]

export interface Model {
  /** How long its animation lasts, or a turn where nothing moves. */
  seconds: number
  /** Whether something in the file moves; else the model turns once about itself. */
  moves: boolean
  /** Whether the file brings a camera. */
  camera: boolean
  /** Features that are left out, in words. */
  leftOut: string[]
}

/** The file's JSON: of a binary file the first chunk, else all of it; null where it is neither. */
function jsonOf(bytes: Uint8Array): string | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length >= 20 && view.getUint32(0, true) === GLB) {
    const length = view.getUint32(12, true)
    if (view.getUint32(4, true) !== 2 || view.getUint32(16, true) !== JSON_CHUNK || 20 + length > bytes.length)
      return null
    return new TextDecoder().decode(bytes.subarray(20, 20 + length))
  }
  return /^\uFEFF?\s*\{/.test(new TextDecoder().decode(bytes.subarray(0, 64))) ? new TextDecoder().decode(bytes) : null
}

/** True where these first bytes may be a model's: the magic of a binary file, or JSON that names its asset. */
export function mayBeModel(head: Uint8Array): boolean {
  if (head.length >= 12 && new DataView(head.buffer, head.byteOffset, 12).getUint32(0, true) === GLB) return true
  const text = new TextDecoder().decode(head)
  return /^\uFEFF?\s*\{/.test(text) && text.includes('"asset"')
}

const SIZES: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }
const BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }

const outside = (uri: string | undefined): boolean => uri !== undefined && !uri.startsWith('data:')

/**
 * Reads what a file says of itself. Throws one clear error where it is damaged, beyond bounds, or needs what lies
 * outside it.
 */
export function readModel(bytes: Uint8Array, file: string): Model {
  const text = jsonOf(bytes)
  if (text === null) throw unreadable(file, 'the header', 'this is not a glTF 2.0 file; it was cut short or is damaged')
  let parsed: unknown
  try {
    parsed = JSON.parse(text)
  } catch {
    throw unreadable(file, null, 'its description is not complete JSON; it was cut short or is damaged')
  }
  const read = Gltf.safeParse(parsed)
  if (!read.success || !read.data.asset.version.startsWith('2'))
    throw unreadable(file, null, 'this is not a glTF 2.0 file: what it says of itself is not of that form')
  const { data } = read
  if ((data.nodes?.length ?? 0) > MOST_NODES) throw unreadable(file, null, `it has more than ${MOST_NODES} nodes`)
  const laidOut = (data.accessors ?? []).reduce(
    (sum, each) => sum + each.count * (SIZES[each.type] ?? 16) * (BYTES[each.componentType] ?? 4),
    0
  )
  if (laidOut > MOST_LAID_OUT)
    throw unreadable(file, null, `its points come to ${Math.ceil(laidOut / 1e6)} MB, more than can be taken`)
  if (data.buffers?.some(({ uri }) => outside(uri)))
    throw unreadable(file, null, 'its points lie in another file; save it as one file, .glb')
  const needs = (data.extensionsRequired ?? []).filter(name => !DRAWN.includes(name))
  if (needs.length)
    throw unreadable(file, null, `it cannot be drawn without ${needs.slice(0, 3).join(', ')}, which is not read here`)
  const leftOut = (data.extensionsUsed ?? []).filter(name => !DRAWN.includes(name)).slice(0, 8)
  const pictures = (data.images ?? []).filter(({ uri }) => outside(uri))
  if (pictures.length) leftOut.push(`pictures outside the file, such as “${pictures[0]!.uri!.slice(0, 60)}”`)
  if ((data.animations?.length ?? 0) > 1) leftOut.push(`all animations but the first of ${data.animations!.length}`)
  const seconds = secondsOf(data)
  return {
    seconds: seconds || TURN,
    moves: seconds > 0,
    camera: (data.cameras?.length ?? 0) > 0,
    leftOut
  }
}

/** How long the first animation lasts: the latest of its times. */
function secondsOf({ animations, accessors }: Gltf): number {
  const ends = (animations?.[0]?.samplers ?? []).map(({ input }) => accessors?.[input]?.max?.[0] ?? 0)
  const last = Math.max(0, ...ends.filter(Number.isFinite))
  return Math.min(MOST_SECONDS, last)
}
