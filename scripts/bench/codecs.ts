/**
 * Every written film whose frames stand alone: encoded and decoded on one thread, how near the codes come back, and the
 * same by the media library of the tests where it has a coder.
 */
import { withDepth } from '../../core/frame/depth'
import { OPAQUE, type Frame } from '../../core/frame/frame'
import type { Host } from '../../core/frame/host'
import { memorySink } from '../../core/base/files/sinks'
import type { FileRef } from '../../core/base/files/file'
import { freshOptions } from '../../core/base/settings/field'
import { storedFrame } from '../../core/media/carriage/stored'
import type { Deliverable } from '../../core/media/formats/deliverable'
import { wholeForm } from '../../core/media/formats/form'
import type { Peer, PeerSpeed } from '../../tests/witness/speed'
import type { Format } from '../../core/media/formats/format'
import { holdsAlpha } from '../../core/media/formats/traits/carrying'
import { writtenFormats } from '../../core/open/registry'
import type { Row } from './row'

export interface CodecBench {
  host: Host
  /** Frames of 16 bits. */
  frames: readonly Frame[]
  measure(what: string, work: (frame: number) => unknown): Promise<Row>
  deliverableOf(frame: Frame, options: Deliverable['options']): Deliverable
  onDisk(name: string, bytes: Uint8Array): FileRef
}

/** Decibels between what is seen of two frames over black and over white, in codes of 8 bits. */
function seenApart(found: Frame, due: Frame): number {
  const [f, d] = [found.depth === 8 ? 255 : 65535, due.depth === 8 ? 255 : 65535]
  let sum = 0
  for (let i = 0; i < due.samples.length; i += 4)
    for (const back of [0, 1])
      for (let c = 0; c < 3; c++) {
        const [a, b] = [found.samples[i + 3]! / f, due.samples[i + 3]! / d]
        const off = (found.samples[i + c]! / f) * a + back * (1 - a) - ((due.samples[i + c]! / d) * b + back * (1 - b))
        sum += off * off
      }
  return -10 * Math.log10(sum / (1.5 * due.samples.length) || 1e-12)
}

/** What is measured of a format: its defaults, and each way of its first choice of effort where it has one. */
function waysOf(format: Format): { told: string; options: Deliverable['options'] }[] {
  const fresh = freshOptions(format.options)
  const effort = format.options.effort
  return effort?.type === 'choice'
    ? effort.choices.map(({ value, label }) => ({ told: `, ${label}`, options: { ...fresh, effort: value } }))
    : [{ told: '', options: fresh }]
}

/** What a film without alpha is given. */
const ON_BLACK = wholeForm(16, OPAQUE, { content: { kind: 'flattened', backing: '#000000' } })

/** The library's coders of the same kind; none of textures. */
const PEERS: Readonly<Record<string, Peer | readonly Peer[]>> = {
  'quicktime-prores-4444': [
    { codec: 'prores_ks', layout: 'yuva444p10le', options: { profile: '4444' } },
    { codec: 'prores_aw', layout: 'yuva444p10le', options: { profile: '4' } }
  ],
  'quicktime-animation': { codec: 'qtrle', layout: 'argb' },
  'quicktime-png': { codec: 'png', layout: 'rgba64be' },
  'quicktime-ffv1': { codec: 'ffv1', layout: 'gbrap16le', options: { level: '3', slices: '4' } },
  'avi-utvideo': { codec: 'utvideo', layout: 'gbrap', options: { pred: 'median' } },
  'avi-magicyuv': { codec: 'magicyuv', layout: 'gbrap', options: { pred: 'median' } },
  'quicktime-vc3': { codec: 'dnxhd', layout: 'yuv422p10le', options: { profile: 'dnxhd', b: '185000000' } },
  'quicktime-wavelet': { codec: 'cfhd', layout: 'gbrap12le', options: { quality: 'film3' } }
}

async function peersOf(id: string, frames: readonly Frame[]): Promise<(PeerSpeed & { codec: string })[]> {
  const peers = [PEERS[id] ?? []].flat()
  if (!peers.length) return []
  const { peerSpeed } = await import('../../tests/witness/speed')
  return peers.map(peer => ({ codec: peer.codec, ...peerSpeed(peer, frames) }))
}

/** Rows of the library's figures, each with how many times as fast Pour's own is. */
function peerRows(
  { codec, encode, decode, bytes }: PeerSpeed & { codec: string },
  own: { encode: Row; decode: Row }
): Row[] {
  const times = (mine: number, its: number): string => `Pour is ${(mine / its).toFixed(2)} x as fast`
  return [
    { what: `  the library's ${codec}: encode`, perSecond: encode, bytes, ratio: times(own.encode.perSecond, encode) },
    { what: `  the library's ${codec}: decode`, perSecond: decode, ratio: times(own.decode.perSecond, decode) }
  ]
}

export async function codecBenches({ host, frames, measure, deliverableOf, onDisk }: CodecBench): Promise<Row[]> {
  const rows: Row[] = []
  for (const format of writtenFormats) {
    if (process.argv[3] && !format.id.includes(process.argv[3])) continue
    if (format.delivers !== 'film' || !format.container || format.stateful) continue
    const depth = Math.max(...format.depths.map(each => each.depth)) as 8 | 16
    const pictures = holdsAlpha(format) ? frames : frames.map(frame => storedFrame(frame, ON_BLACK, host.kernels))
    const given = pictures.map(frame => (depth === 16 ? frame : withDepth(frame, 8, host.kernels)))
    const peers = await peersOf(format.id, pictures)
    for (const { told, options } of waysOf(format)) {
      const shape = deliverableOf(given[0]!, options)
      const before = (i: number): Frame | null => (format.buildsOn?.(i, shape) ? given[i - 1]! : null)
      const encode = (i: number): Promise<Uint8Array> => format.encode(host, given[i]!, shape, before(i))
      const encoded = await measure(`${format.name}${told}: encode`, encode)
      rows.push(encoded)
      const sink = memorySink()
      const assembler = await format.assemble({ kind: 'film', sink }, shape, host)
      for (let i = 0; i < given.length; i++) await assembler.add(i, await encode(i))
      await assembler.finish()
      const name = `${format.id}${told.replace(', ', '-')}.${format.extension}`
      const source = await format.open(name, [onDisk(name, sink.bytes())], host)
      const decoded = await measure(`${format.name}${told}: decode`, i => source.frame(i).then(() => null))
      const near = seenApart(await source.frame(0), given[0]!)
      await source.close()
      rows.push({ ...decoded, ratio: format.lossless ? 'code for code' : `${near.toFixed(1)} dB as it is seen` })
      for (const peer of peers) rows.push(...peerRows(peer, { encode: encoded, decode: decoded }))
    }
  }
  return rows
}
