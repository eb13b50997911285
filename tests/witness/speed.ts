/** How fast the media library codes and decodes, on one thread: what benchmarks hold Pour's own codecs against. */
import * as AV from 'node-av/constants'
import { Codec, CodecContext, CodecParameters, Frame as LibraryFrame, Packet, Rational } from 'node-av/lib'
import type { Frame } from '../../core/frame/frame'
import { bufferOf, LAYOUTS } from './pixels'
import { planesFor } from './planes'

/** A coder of the library by its name, and what it is set to. */
export interface Peer {
  codec: string
  layout: string
  options?: Readonly<Record<string, string>>
}

export interface PeerSpeed {
  /** Frames a second. */
  encode: number
  decode: number
  bytes: number
}

const must = (result: number, what: string): void => {
  if (result < 0) throw new Error(`the library cannot ${what} (${result})`)
}

function coderOf({ codec: name, layout, options = {} }: Peer, { width, height }: Frame): CodecContext {
  const codec = Codec.findEncoderByName(name as never)
  if (!codec) throw new Error(`the library has no encoder "${name}"`)
  const coder = new CodecContext()
  coder.allocContext3(codec)
  coder.width = width
  coder.height = height
  coder.pixelFormat = LAYOUTS.get(layout)!.id as never
  coder.timeBase = new Rational(1, 25)
  coder.framerate = new Rational(25, 1)
  coder.gopSize = 1
  coder.threadCount = 1
  for (const [key, value] of Object.entries(options))
    must(coder.setOption(key, value, AV.AV_OPT_TYPE_STRING as never, AV.AV_OPT_SEARCH_CHILDREN), `set ${key}`)
  must(coder.open2Sync(codec, null), `open ${name}`)
  return coder
}

/** Codes frames of 16 bits and decodes what came of them, each for about two seconds after a round that warms up. */
export function peerSpeed(peer: Peer, frames: readonly Frame[]): PeerSpeed {
  const [{ width, height }] = frames as [Frame]
  const lies = LAYOUTS.get(peer.layout)!
  const pictures = frames.map(frame => bufferOf(planesFor(frame, peer.layout), width, height, lies))
  const coder = coderOf(peer, frames[0]!)
  const packets: Buffer[] = []
  const packet = new Packet()
  packet.alloc()
  let shown = 0
  /** Milliseconds of one round; making the library's frame of the bytes is not counted. */
  const code = (keep: boolean): number => {
    let spent = 0
    for (const bytes of pictures) {
      const frame = LibraryFrame.fromVideoBuffer(bytes, {
        width,
        height,
        format: lies.id as never,
        timeBase: { num: 1, den: 25 },
        pts: BigInt(shown++)
      })
      const began = performance.now()
      must(coder.sendFrameSync(frame), 'encode a picture')
      const got = coder.receivePacketSync(packet) >= 0
      spent += performance.now() - began
      if (got && keep) packets.push(Buffer.from(packet.data!))
      if (got) packet.unref()
      frame.free()
    }
    return spent
  }
  code(true)
  let [spent, count] = [0, 0]
  while (spent < 2000) {
    spent += code(false)
    count += pictures.length
  }
  const encode = (1000 * count) / spent
  const decoder = new CodecContext()
  const codec = Codec.findDecoder(coder.codecId)
  if (!codec) throw new Error(`the library has no decoder for "${peer.codec}"`)
  decoder.allocContext3(codec)
  const told = new CodecParameters()
  told.alloc()
  must(told.fromContext(coder), 'say how it coded')
  must(decoder.parametersToContext(told), 'set its decoder up')
  decoder.threadCount = 1
  must(decoder.open2Sync(codec, null), 'open its decoder')
  const frame = new LibraryFrame()
  frame.alloc()
  const read = (): number => {
    let time = 0
    for (const data of packets) {
      const next = new Packet()
      next.alloc()
      next.data = data
      next.isKeyframe = true
      const began = performance.now()
      must(decoder.sendPacketSync(next), 'decode a packet')
      must(decoder.receiveFrameSync(frame), 'hand out a picture')
      time += performance.now() - began
      frame.unref()
      next.free()
    }
    return time
  }
  read()
  ;[spent, count] = [0, 0]
  while (spent < 2000) {
    spent += read()
    count += packets.length
  }
  decoder.freeContext()
  coder.freeContext()
  const bytes = packets.reduce((sum, { length }) => sum + length, 0) / packets.length
  return { encode, decode: (1000 * count) / spent, bytes: Math.round(bytes) }
}
