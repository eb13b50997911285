/**
 * A box as a binary glTF 2.0 file, built from the standard's words: solid, of one colour, standing on the floor, still
 * or moving up.
 */
interface Boxed {
  /** Seconds of an animation that moves it up by its height; 0 leaves it still. */
  seconds?: number
  change?: (json: Record<string, unknown>) => void
}

const FACES: readonly (readonly [normal: readonly number[], corners: readonly (readonly number[])[]])[] = [
  [
    [0, 0, 1],
    [
      [-1, 0, 1],
      [1, 0, 1],
      [1, 2, 1],
      [-1, 2, 1]
    ]
  ],
  [
    [0, 0, -1],
    [
      [1, 0, -1],
      [-1, 0, -1],
      [-1, 2, -1],
      [1, 2, -1]
    ]
  ],
  [
    [1, 0, 0],
    [
      [1, 0, 1],
      [1, 0, -1],
      [1, 2, -1],
      [1, 2, 1]
    ]
  ],
  [
    [-1, 0, 0],
    [
      [-1, 0, -1],
      [-1, 0, 1],
      [-1, 2, 1],
      [-1, 2, -1]
    ]
  ],
  [
    [0, 1, 0],
    [
      [-1, 2, 1],
      [1, 2, 1],
      [1, 2, -1],
      [-1, 2, -1]
    ]
  ],
  [
    [0, -1, 0],
    [
      [-1, 0, -1],
      [1, 0, -1],
      [1, 0, 1],
      [-1, 0, 1]
    ]
  ]
]

export function boxModel({ seconds = 0, change }: Boxed = {}): Uint8Array {
  const positions = FACES.flatMap(([, corners]) => corners.flat())
  const normals = FACES.flatMap(([normal, corners]) => corners.flatMap(() => [...normal]))
  const indices = FACES.flatMap((_, face) => [0, 1, 2, 0, 2, 3].map(n => 4 * face + n))
  const times = [0, seconds]
  const moves = [0, 0, 0, 0, 2, 0]
  const parts = [
    new Uint8Array(Float32Array.from(positions).buffer),
    new Uint8Array(Float32Array.from(normals).buffer),
    new Uint8Array(Uint32Array.from(indices).buffer),
    new Uint8Array(Float32Array.from(times).buffer),
    new Uint8Array(Float32Array.from(moves).buffer)
  ]
  let at = 0
  const bufferViews = parts.map(part => {
    const view = { buffer: 0, byteOffset: at, byteLength: part.length }
    at += part.length
    return view
  })
  const json: Record<string, unknown> = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0, NORMAL: 1 }, indices: 2, material: 0 }] }],
    materials: [
      { pbrMetallicRoughness: { baseColorFactor: [0.1, 0.4, 0.1, 1], metallicFactor: 0, roughnessFactor: 0.9 } }
    ],
    accessors: [
      { bufferView: 0, componentType: 5126, count: 24, type: 'VEC3', min: [-1, 0, -1], max: [1, 2, 1] },
      { bufferView: 1, componentType: 5126, count: 24, type: 'VEC3' },
      { bufferView: 2, componentType: 5125, count: 36, type: 'SCALAR' },
      { bufferView: 3, componentType: 5126, count: 2, type: 'SCALAR', min: [0], max: [seconds] },
      { bufferView: 4, componentType: 5126, count: 2, type: 'VEC3' }
    ],
    bufferViews,
    buffers: [{ byteLength: at }],
    ...(seconds
      ? {
          animations: [
            {
              name: 'rise',
              samplers: [{ input: 3, output: 4, interpolation: 'LINEAR' }],
              channels: [{ sampler: 0, target: { node: 0, path: 'translation' } }]
            }
          ]
        }
      : {})
  }
  change?.(json)
  const words = JSON.stringify(json)
  const text = new TextEncoder().encode(words.padEnd(Math.ceil(words.length / 4) * 4))
  const file = new Uint8Array(12 + 8 + text.length + 8 + at)
  const view = new DataView(file.buffer)
  view.setUint32(0, 0x46546c67, true)
  view.setUint32(4, 2, true)
  view.setUint32(8, file.length, true)
  view.setUint32(12, text.length, true)
  view.setUint32(16, 0x4e4f534a, true)
  file.set(text, 20)
  view.setUint32(20 + text.length, at, true)
  view.setUint32(24 + text.length, 0x004e4942, true)
  let to = 28 + text.length
  for (const part of parts) {
    file.set(part, to)
    to += part.length
  }
  return file
}
