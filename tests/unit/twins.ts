/**
 * Readers of AVI and MXF for tests alone, written from the standards and sharing nothing with Pour's: they go by
 * indexes, and mind every length.
 */
import assert from 'node:assert'

const four = (bytes: Buffer, at: number): string => bytes.toString('latin1', at, at + 4)

export interface TwinAvi {
  rate: [number, number]
  width: number
  height: number
  code: string
  frames: Buffer[]
  sound: Buffer | null
}

/** By OpenDML's indexes where there are any, and by the old index, which must agree with them as far as it goes. */
export function twinAvi(bytes: Buffer): TwinAvi {
  const chunks = (from: number, end: number): { id: string; at: number; size: number }[] => {
    const list = []
    let at = from
    while (at < end) {
      const size = bytes.readUInt32LE(at + 4)
      list.push({ id: four(bytes, at), at: at + 8, size })
      at += 8 + size + (size % 2)
    }
    assert.equal(at, end, 'chunks fill their list')
    return list
  }
  const riffs = chunks(0, bytes.length)
  assert(riffs.every(riff => riff.id === 'RIFF'))
  assert.equal(four(bytes, riffs[0]!.at), 'AVI ')
  assert(riffs.slice(1).every(riff => four(bytes, riff.at) === 'AVIX'))
  const first = chunks(riffs[0]!.at + 4, riffs[0]!.at + riffs[0]!.size)
  const header = first.find(c => c.id === 'LIST' && four(bytes, c.at) === 'hdrl')!
  const movie = first.find(c => c.id === 'LIST' && four(bytes, c.at) === 'movi')!
  const index = first.find(c => c.id === 'idx1')!
  const within = chunks(header.at + 4, header.at + header.size)
  const main = within[0]!
  assert.equal(main.id, 'avih')
  const streams = within.filter(c => c.id === 'LIST' && four(bytes, c.at) === 'strl')
  assert.equal(bytes.readUInt32LE(main.at + 24), streams.length)
  const old: Record<string, Buffer[]> = { '00dc': [], '01wb': [] }
  for (let at = index.at; at < index.at + index.size; at += 16) {
    const place = movie.at + bytes.readUInt32LE(at + 8)
    assert.equal(four(bytes, place), four(bytes, at))
    assert.equal(bytes.readUInt32LE(place + 4), bytes.readUInt32LE(at + 12))
    old[four(bytes, at)]!.push(bytes.subarray(place + 8, place + 8 + bytes.readUInt32LE(at + 12)))
  }
  const parts = streams.map((stream, n) => {
    const fields = chunks(stream.at + 4, stream.at + stream.size)
    const id = n === 0 ? '00dc' : '01wb'
    const names = fields.find(c => c.id === 'indx')
    if (!names) return { fields, list: old[id]! }
    const list: Buffer[] = []
    for (let i = 0; i < bytes.readUInt32LE(names.at + 4); i++) {
      const at = Number(bytes.readBigUInt64LE(names.at + 24 + 16 * i))
      assert.equal(four(bytes, at), `ix0${n}`)
      assert.equal(bytes.readUInt32LE(at + 4) + 8, bytes.readUInt32LE(names.at + 32 + 16 * i))
      const base = Number(bytes.readBigUInt64LE(at + 8 + 12))
      for (let k = 0; k < bytes.readUInt32LE(at + 12); k++) {
        const place = base + bytes.readUInt32LE(at + 32 + 8 * k)
        const size = bytes.readUInt32LE(at + 36 + 8 * k) & 0x7fffffff
        assert.equal(four(bytes, place - 8), id)
        assert.equal(bytes.readUInt32LE(place - 4), size)
        list.push(bytes.subarray(place, place + size))
      }
    }
    old[id]!.forEach((part, i) => assert(part.equals(list[i]!), 'both indexes name the same'))
    return { fields, list }
  })
  const [video, audio] = parts
  const head = video!.fields.find(c => c.id === 'strh')!.at
  const format = video!.fields.find(c => c.id === 'strf')!.at
  assert.equal(bytes.readUInt32LE(head + 32), video!.list.length)
  return {
    rate: [bytes.readUInt32LE(head + 24), bytes.readUInt32LE(head + 20)],
    width: bytes.readInt32LE(format + 4),
    height: bytes.readInt32LE(format + 8),
    code: four(bytes, format + 16),
    frames: video!.list,
    sound: audio ? Buffer.concat(audio.list) : null
  }
}

export interface TwinMxf {
  rate: [number, number]
  duration: number
  frames: Buffer[]
  sound: Buffer[]
  coding: string
  timecode: { start: number; base: number } | null
}

/** From the list of partitions at the file's end, by the footer's index; every tag must stand in the primer. */
export function twinMxf(bytes: Buffer): TwinMxf {
  const klv = (at: number): { key: string; value: Buffer; next: number } => {
    const first = bytes[at + 16]!
    const size = first & 0x80 ? first & 0x7f : 0
    const length = size ? bytes.readUIntBE(at + 17 + Math.max(0, size - 6), Math.min(size, 6)) : first
    const from = at + 17 + size
    assert(from + length <= bytes.length)
    return { key: bytes.toString('hex', at, at + 16), value: bytes.subarray(from, from + length), next: from + length }
  }
  const back = bytes.readUInt32BE(bytes.length - 4)
  const random = klv(bytes.length - back)
  assert.equal(random.key, '060e2b34020501010d01020101110100')
  assert.equal(random.next, bytes.length)
  const partitions: { stream: number; at: number }[] = []
  for (let i = 0; i + 12 <= random.value.length; i += 12)
    partitions.push({ stream: random.value.readUInt32BE(i), at: Number(random.value.readBigUInt64BE(i + 4)) })
  assert.equal(partitions[0]!.at, 0)
  let before = 0
  for (const { stream, at } of partitions) {
    const { value, key } = klv(at)
    assert(key.startsWith('060e2b34020501010d010201010'))
    assert.equal(Number(value.readBigUInt64BE(8)), at)
    assert.equal(Number(value.readBigUInt64BE(16)), before)
    assert.equal(Number(value.readBigUInt64BE(24)), partitions.at(-1)!.at)
    assert.equal(value.readUInt32BE(60), stream)
    before = at
  }
  // sets of the header
  const opening = klv(0)
  const headerEnd = opening.next + Number(opening.value.readBigUInt64BE(32))
  const primer = klv(opening.next)
  const known = new Set<number>()
  for (let i = 0; i < primer.value.readUInt32BE(0); i++) known.add(primer.value.readUInt16BE(8 + 18 * i))
  const sets: { key: string; tags: Map<number, Buffer> }[] = []
  for (let at = primer.next; at < headerEnd;) {
    const { key, value, next } = klv(at)
    const tags = new Map<number, Buffer>()
    let p = 0
    for (; p < value.length; p += 4 + value.readUInt16BE(p + 2)) {
      assert(known.has(value.readUInt16BE(p)), `tag ${value.readUInt16BE(p).toString(16)} is in the primer`)
      tags.set(value.readUInt16BE(p), value.subarray(p + 4, p + 4 + value.readUInt16BE(p + 2)))
    }
    assert.equal(p, value.length)
    sets.push({ key: key.slice(28, 32), tags })
    at = next
    assert(at <= headerEnd)
  }
  // every reference leads to a set
  const own = new Set(sets.map(set => set.tags.get(0x3c0a)!.toString('hex')))
  for (const { tags } of sets)
    for (const [tag, value] of tags) {
      if ([0x3b03, 0x4803, 0x4701].includes(tag)) assert(own.has(value.toString('hex')))
      if ([0x3b06, 0x1901, 0x1902, 0x4403, 0x1001, 0x3f01].includes(tag))
        for (let i = 8; i < value.length; i += 16) assert(own.has(value.toString('hex', i, i + 16)))
    }
  const picture = sets.find(set => set.key === '2800')!.tags
  const body = klv(partitions.find(p => p.stream === 1)!.at).next
  const footer = klv(partitions.at(-1)!.at)
  const frames: Buffer[] = []
  const sound: Buffer[] = []
  let duration = 0
  for (let at = footer.next; at < bytes.length - back;) {
    const { value, next } = klv(at)
    const tags = new Map<number, Buffer>()
    for (let p = 0; p < value.length; p += 4 + value.readUInt16BE(p + 2))
      tags.set(value.readUInt16BE(p), value.subarray(p + 4, p + 4 + value.readUInt16BE(p + 2)))
    assert.equal(Number(tags.get(0x3f0c)!.readBigUInt64BE()), duration)
    duration += Number(tags.get(0x3f0d)!.readBigUInt64BE())
    const table = tags.get(0x3f0a)!
    const slices = tags.get(0x3f08)![0]!
    const size = table.readUInt32BE(4)
    assert.equal(size, 11 + 4 * slices)
    for (let i = 0; i < table.readUInt32BE(0); i++) {
      const start = body + Number(table.readBigUInt64BE(8 + size * i + 3))
      const found = klv(start)
      assert(found.key.startsWith('060e2b34010201010d01030115'))
      frames.push(found.value)
      if (!slices) continue
      const offset = table.readUInt32BE(8 + size * i + 11)
      assert.equal(start + offset, found.next)
      const heard = klv(found.next)
      assert(heard.key.startsWith('060e2b34010201010d01030116'))
      sound.push(heard.value)
    }
    at = next
  }
  const clock = sets.find(set => set.key === '1400')?.tags
  return {
    rate: [picture.get(0x3001)!.readUInt32BE(0), picture.get(0x3001)!.readUInt32BE(4)],
    duration,
    frames,
    sound,
    coding: picture.get(0x3201)!.toString('hex'),
    timecode: clock
      ? { start: Number(clock.get(0x1501)!.readBigUInt64BE()), base: clock.get(0x1502)!.readUInt16BE() }
      : null
  }
}
