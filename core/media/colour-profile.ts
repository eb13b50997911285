/**
 * What a picture says its codes mean by a profile (ISO 15076-1, "ICC"), or by a gamma and primaries of its own: the
 * tags it comes to where others have a number for it, and how far off its colours are where it is taken for sRGB.
 */
import { isWide, sayTags, type ColourTags } from '../frame/colour-tags'
import { toCoded, toLinearLight } from '../frame/transfer'
import { ciede2000 } from '../frame/kernels/ciede2000'
import type { Finding } from '../source/source'

type Row = readonly [number, number, number]
type Matrix = readonly [Row, Row, Row]
type Curve = (code: number) => number

/** Colours by light: what each code comes to, 0 to 1, and where linear light of it lies in that of BT.709. */
interface Space {
  curves: readonly [Curve, Curve, Curve]
  to709: Matrix
}

/** A profile as it was found. */
export interface ProfileFound {
  /** What it is called. */
  name: string
  /** What H.273 calls it; null where it has no number for it. Tags of sRGB itself are 1, 13. */
  tags: ColourTags | null
  /** Differences (CIEDE2000) of its colours from those of the same codes as sRGB; null where it cannot be read. */
  off: { mean: number; most: number } | null
  /** A space that the step "Bring colour to sRGB" knows and H.273 does not. */
  known: 'op-rgb' | null
}

const times = (a: Matrix, b: Matrix): Matrix =>
  a.map(row => [0, 1, 2].map(c => row[0] * b[0][c]! + row[1] * b[1][c]! + row[2] * b[2][c]!)) as unknown as Matrix

function inverse([[a, b, c], [d, e, f], [g, h, i]]: Matrix): Matrix | null {
  const [x, y, z] = [e * i - f * h, f * g - d * i, d * h - e * g]
  const det = a * x + b * y + c * z
  if (!(Math.abs(det) > 1e-9)) return null
  const rows = [
    [x, c * h - b * i, b * f - c * e],
    [y, a * i - c * g, c * d - a * f],
    [z, b * g - a * h, a * e - b * d]
  ]
  return rows.map(row => row.map(v => v / det)) as unknown as Matrix
}

/** Linear BT.709 to XYZ under D65 (IEC 61966-2-1). */
const XYZ_OF_709: Matrix = [
  [0.4124564, 0.3575761, 0.1804375],
  [0.2126729, 0.7151522, 0.072175],
  [0.0193339, 0.119192, 0.9503041]
]
const TO_709 = inverse(XYZ_OF_709)!
/** White of D65, and of D50, in which profiles speak. */
const D65: Row = [0.95047, 1, 1.08883]
const D50: Row = [0.9642, 1, 0.8249]
const BRADFORD: Matrix = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296]
]

const applied = (matrix: Matrix, [x, y, z]: Row): Row =>
  matrix.map(row => row[0] * x + row[1] * y + row[2] * z) as unknown as Row

/** Bradford's adaptation of XYZ under a white to D65. */
function adapted(white: Row): Matrix {
  const [from, to] = [applied(BRADFORD, white), applied(BRADFORD, D65)]
  const gains = [0, 1, 2].map(n => [0, 1, 2].map(c => (c === n ? to[n]! / from[n]! : 0))) as unknown as Matrix
  return times(inverse(BRADFORD)!, times(gains, BRADFORD))
}

/** XYZ of the primaries that H.273 numbers so, under D50 as profiles hold them, by rows; null for others. */
export function profileMatrix(primaries: number): Matrix | null {
  const places = placesOf(primaries)
  const xyz = places && xyzOfPrimaries(places)
  return xyz ? times(inverse(adapted(D50))!, xyz) : null
}

/** Bradford's adaptation from D65 to D50, by rows. */
export const toD50 = (): Matrix => inverse(adapted(D50))!

type Place = readonly [number, number]
const atPlace = ([x, y]: Place): Row => [x / y, 1, (1 - x - y) / y]

/** Primaries by their place (x, y), as XYZ of their light under D65; `white` is their own, D65 where not given. */
function xyzOfPrimaries(places: readonly Place[], white: Place | null = null): Matrix | null {
  const columns = places.map(atPlace)
  const raw = [0, 1, 2].map(n => columns.map(column => column[n]!)) as unknown as Matrix
  const back = inverse(raw)
  if (!back || columns.flat().some(v => !Number.isFinite(v))) return null
  const shown = white ? atPlace(white) : D65
  const gains = applied(back, shown)
  const xyz = raw.map(row => row.map((v, n) => v * gains[n]!)) as unknown as Matrix
  return white ? times(adapted(shown), xyz) : xyz
}

/** H.273's numbers of primaries that are told apart here, and one that it has none for. */
const PRIMARIES: readonly [number | 'op-rgb', readonly Place[]][] = [
  [
    1,
    [
      [0.64, 0.33],
      [0.3, 0.6],
      [0.15, 0.06]
    ]
  ],
  [
    12,
    [
      [0.68, 0.32],
      [0.265, 0.69],
      [0.15, 0.06]
    ]
  ],
  [
    9,
    [
      [0.708, 0.292],
      [0.17, 0.797],
      [0.131, 0.046]
    ]
  ],
  [
    'op-rgb',
    [
      [0.64, 0.33],
      [0.21, 0.71],
      [0.15, 0.06]
    ]
  ]
]

/** xy of red, green and blue that H.273 numbers so, all under D65; null for those that have no number here. */
export const placesOf = (primaries: number): readonly Place[] | null =>
  PRIMARIES.find(([number]) => number === primaries)?.[1] ?? null

/** So far two matrices may lie apart and still be the same: rounding in a file, and rounding of white. */
const SAME_MATRIX = 0.006
/** So far, in codes of 255, two curves. */
const SAME_CURVE = 1.5

const apart = (a: Matrix, b: Matrix): number =>
  Math.max(...a.flatMap((row, n) => row.map((v, c) => Math.abs(v - b[n]![c]!))))

function primariesOf(to709: Matrix): number | 'op-rgb' | null {
  for (const [number, places] of PRIMARIES)
    if (apart(to709, times(TO_709, xyzOfPrimaries(places)!)) < SAME_MATRIX) return number
  return null
}

/** The most that two curves lie apart, in codes of 255 as a screen shows them. */
function curvesApart(a: Curve, b: Curve): number {
  let most = 0
  for (let i = 0; i <= 255; i++) most = Math.max(most, 255 * Math.abs(toCoded(a(i / 255)) - toCoded(b(i / 255))))
  return most
}

const CURVES: readonly [number, Curve][] = [
  [13, toLinearLight],
  [8, v => v],
  [4, v => v ** 2.2]
]

function transferOf(curves: Space['curves']): number | null {
  for (const [number, curve] of CURVES) if (curves.every(each => curvesApart(each, curve) < SAME_CURVE)) return number
  return null
}

const lightness = (t: number): number => (t > 216 / 24389 ? Math.cbrt(t) : (t * (24389 / 27) + 16) / 116)

function labOf709(light: Row, lab: Float64Array, at: number): void {
  const [x, y, z] = XYZ_OF_709.map(row => row[0] * light[0] + row[1] * light[1] + row[2] * light[2]) as unknown as Row
  const [fx, fy, fz] = [lightness(x / 0.95047), lightness(y), lightness(z / 1.08883)]
  lab.set([116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)], at)
}

/** Codes of each channel that are tried. */
const TRIED = [0, 0.2, 0.4, 0.6, 0.8, 1]

/** How far colours of a space lie from the same codes as sRGB. */
function offFromSrgb({ curves, to709 }: Space): { mean: number; most: number } {
  const lab = new Float64Array(6)
  let [sum, most, count] = [0, 0, 0]
  for (const r of TRIED)
    for (const g of TRIED)
      for (const b of TRIED) {
        const light = [curves[0](r), curves[1](g), curves[2](b)] as const
        labOf709(to709.map(row => row[0] * light[0] + row[1] * light[1] + row[2] * light[2]) as unknown as Row, lab, 0)
        labOf709([toLinearLight(r), toLinearLight(g), toLinearLight(b)], lab, 3)
        const off = ciede2000(lab, 0, 3)
        sum += off
        most = Math.max(most, off)
        count++
      }
  return { mean: sum / count, most }
}

/**
 * How far colours under these tags lie from the same codes as sRGB; null where that is not computed, as for PQ and HLG.
 */
export function offByTags([primaries, transfer]: ColourTags): { mean: number; most: number } | null {
  const places = PRIMARIES.find(([number]) => number === ([0, 2].includes(primaries) ? 1 : primaries))?.[1]
  const curve = [4, 8].includes(transfer)
    ? CURVES.find(([number]) => number === transfer)![1]
    : [16, 18].includes(transfer)
      ? null
      : toLinearLight
  if (!places || !curve) return null
  return offFromSrgb({ curves: [curve, curve, curve], to709: times(TO_709, xyzOfPrimaries(places)!) })
}

function foundOf(name: string, space: Space): ProfileFound {
  const [primaries, transfer] = [primariesOf(space.to709), transferOf(space.curves)]
  const tags: ColourTags | null = typeof primaries === 'number' && transfer !== null ? [primaries, transfer, 0] : null
  const known = primaries === 'op-rgb' && transfer === 4 ? 'op-rgb' : null
  return { name, tags, known, off: offFromSrgb(space) }
}

/** A profile's name, without what a text of it may not have. */
const plain = (text: string): string =>
  [...text]
    .filter(letter => letter >= ' ' && letter !== '\u007f')
    .join('')
    .trim()
    .slice(0, 80)

function nameOf(view: DataView, at: number, length: number): string {
  const type = view.getUint32(at)
  const bytes = new Uint8Array(view.buffer, view.byteOffset)
  // 'desc' of version 2: a count, then letters; 'mluc' of version 4: the first of its languages
  if (type === 0x64657363 && length > 12) {
    const count = Math.min(view.getUint32(at + 8), length - 12)
    return plain(new TextDecoder('latin1').decode(bytes.subarray(at + 12, at + 12 + count)))
  }
  if (type === 0x6d6c7563 && length >= 28) {
    const [count, from] = [view.getUint32(at + 20), view.getUint32(at + 24)]
    if (from + count <= length)
      return plain(new TextDecoder('utf-16be').decode(bytes.subarray(at + from, at + from + count)))
  }
  return ''
}

/** 'curv' (ISO 15076-1, 10.6) and 'para' (10.18); null where it is damaged. */
function curveAt(view: DataView, at: number, length: number): Curve | null {
  const type = view.getUint32(at)
  if (type === 0x63757276) {
    const count = view.getUint32(at + 8)
    if (count === 0) return v => v
    if (12 + 2 * count > length) return null
    if (count === 1) {
      const gamma = view.getUint16(at + 12) / 256
      return v => v ** gamma
    }
    return v => {
      const place = Math.min(1, Math.max(0, v)) * (count - 1)
      const low = Math.min(count - 2, Math.floor(place))
      const [a, b] = [view.getUint16(at + 12 + 2 * low), view.getUint16(at + 14 + 2 * low)]
      return (a + (b - a) * (place - low)) / 65535
    }
  }
  if (type !== 0x70617261) return null
  const kind = view.getUint16(at + 8)
  const many = [1, 3, 4, 5, 7][kind]
  if (many === undefined || 12 + 4 * many > length) return null
  const [g, a, b, c, d, e, f] = Array.from({ length: 7 }, (_, n) =>
    n < many ? view.getInt32(at + 12 + 4 * n) / 65536 : 0
  ) as [number, number, number, number, number, number, number]
  const power = (v: number): number => Math.max(0, v) ** g
  if (kind === 0) return power
  if (kind === 1) return v => (v >= -b / a ? power(a * v + b) : 0)
  if (kind === 2) return v => (v >= -b / a ? power(a * v + b) + c : c)
  if (kind === 3) return v => (v >= d ? power(a * v + b) : c * v)
  return v => (v >= d ? power(a * v + b) + e : c * v + f)
}

/** Bytes of a profile that are looked at; more is no profile of three channels by curves. */
export const MOST_PROFILE = 8 << 20
const MOST_TAGS = 200

/**
 * Reads a profile of RGB or grey. One by tables, of another kind of colour or damaged has neither tags nor a measure of
 * what it is off by.
 */
export function readProfile(bytes: Uint8Array, called = ''): ProfileFound {
  const unread: ProfileFound = { name: plain(called) || 'without a name', tags: null, off: null, known: null }
  if (bytes.length < 132 || bytes.length > MOST_PROFILE) return unread
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (view.getUint32(36) !== 0x61637370) return unread
  const places = new Map<number, [at: number, length: number]>()
  for (let n = 0; n < Math.min(MOST_TAGS, view.getUint32(128)) && 144 + 12 * n <= bytes.length; n++) {
    const [tag, at, length] = [0, 4, 8].map(offset => view.getUint32(132 + 12 * n + offset)) as [number, number, number]
    if (length >= 12 && at + length <= bytes.length) places.set(tag, [at, length])
  }
  const letters = (text: string): number => [...text].reduce((sum, letter) => sum * 256 + letter.charCodeAt(0), 0)
  const place = (text: string): [number, number] | undefined => places.get(letters(text))
  const described = place('desc')
  const name = (described && nameOf(view, ...described)) || unread.name
  const curve = (tag: string): Curve | null => {
    const found = place(tag)
    return found ? curveAt(view, ...found) : null
  }
  // what is meant is then in tables, whatever stands beside them
  if (place('A2B0') || place('D2B0')) return { ...unread, name }
  const space = view.getUint32(16)
  if (space === letters('GRAY')) {
    const grey = curve('kTRC')
    const identity: Matrix = [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1]
    ]
    return grey ? { ...foundOf(name, { curves: [grey, grey, grey], to709: identity }), name } : { ...unread, name }
  }
  const columns = ['rXYZ', 'gXYZ', 'bXYZ'].map(place)
  const curves = ['rTRC', 'gTRC', 'bTRC'].map(curve)
  if (space !== letters('RGB ') || columns.some(each => !each || each[1] < 20) || curves.some(each => !each))
    return { ...unread, name }
  const light = [0, 1, 2].map(row =>
    columns.map(each => view.getInt32(each![0] + 8 + 4 * row) / 65536)
  ) as unknown as Matrix
  return foundOf(name, {
    curves: curves as unknown as Space['curves'],
    to709: times(TO_709, times(adapted(D50), light))
  })
}

/** What primaries of a picture's own are called. */
const OWN = 'primaries of its own'

/** What a gamma and primaries of a picture's own come to; primaries are those of sRGB where none are given. */
export function readGamma(
  gamma: number | null,
  primaries: readonly Place[] | null,
  white: Place | null = null
): ProfileFound | null {
  const xyz = primaries ? xyzOfPrimaries(primaries, white) : XYZ_OF_709
  if (!xyz || (gamma !== null && !(gamma > 0.05 && gamma < 20))) return null
  // what was encoded by a power of 0.45455 is what the world of sRGB wrote before it had that name
  const usual = gamma === null || Math.abs(gamma - 1 / 2.2) < 0.004
  const curve: Curve = usual ? toLinearLight : v => v ** (1 / gamma)
  const found = foundOf('', { curves: [curve, curve, curve], to709: times(TO_709, xyz) })
  return { ...found, name: gamma === null ? OWN : `gamma ${Math.round(gamma * 1e5) / 1e5}` }
}

const said = (value: number): string => String(Math.round(value * 10) / 10)

/** So far off nobody sees it. */
const UNSEEN = 1

/**
 * What is to be told of a profile that nothing is done about: null where it is sRGB's, where H.273 has a number that
 * goes along, or where nobody would see the difference.
 */
export function profileFinding(found: ProfileFound | null): Finding | null {
  if (!found || found.tags) return null
  const { name, off, known } = found
  if (off && off.most < UNSEEN) return null
  const what =
    name === OWN || name.startsWith('gamma') ? `Its colour is of ${name}` : `It carries the profile “${name}”`
  return {
    id: 'colour-profile',
    severity: 'warning',
    frames: [],
    sentence: off
      ? `${what}. Its codes are kept and taken for those of sRGB, which is off by ΔE ${said(off.mean)} on ` +
        `average and ${said(off.most)} at most.`
      : `${what}, which Pour does not read. Its codes are kept and taken for those of sRGB; how far that is ` +
        'off is not known.',
    causes: 'Programs that heed it show other colours than those that do not, and than what is delivered.',
    ...(known
      ? { mend: { id: 'step', label: 'Bring it to sRGB', kind: 'bring-to-srgb', settings: { from: known } } }
      : {})
  } as Finding
}

/**
 * What a picture with a profile says of its colour: in words, by number where that is not sRGB, and what is to be told.
 */
export function profiled(found: ProfileFound | null): {
  colour: string | null
  tags: [number, number, number] | null
  findings: Finding[]
} {
  const finding = profileFinding(found)
  const wide = found?.tags && isWide(found.tags) ? found.tags : null
  return {
    colour: wide ? sayTags(wide) : found && `ICC profile ${found.name}`,
    tags: wide && [wide[0], wide[1], wide[2]],
    findings: finding ? [finding] : []
  }
}
