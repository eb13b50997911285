/** DPX as it is written: fields of its header, codes of few bits, time code and name of each picture. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { storedFrame } from '../../core/media/carriage/stored'
import { wholeForm } from '../../core/media/formats/form'
import { newOutlet } from '../../core/job/outlet/outlet'
import { pourProblems } from '../../core/job/outlet/plan'
import { openSource } from '../../core/open/open'
import type { Deliverable } from '../../core/media/formats/deliverable'
import { formatById } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import { anyNoise, bytesFile, deliverable, noise, strapFacts, testHost } from './support'

const host = await testHost()
const format = formatById('dpx-sequence')

/** What is laid down of a clip of three pictures under these options. */
async function laid(options: Deliverable['options'], rate: [number, number] = [25, 1]) {
  const frame = noise({ width: 21, height: 9, depth: 16, seed: 3 })
  const names = ['moth wing_0001.dpx', 'moth wing_0002.dpx', 'moth wing_0003.dpx']
  const told = deliverable(frame, 3, { rate, options, names, pixelAspect: [12, 11] })
  const found: Record<string, Uint8Array> = {}
  const sink = { add: (name: string, bytes: Uint8Array) => Promise.resolve(void (found[name] = bytes)) }
  const assembler = await format.assemble({ kind: 'pictures', sink: sink as never }, told, host)
  for (let n = 0; n < 3; n++) await assembler.add(n, await format.encode(host, frame, told, null))
  await assembler.finish()
  return { frame, names, files: names.map(name => found[name]!) }
}

test.each(['big', 'little'])(
  '%s: each picture has its name, its time code, the rate and the shape of its pixels',
  async order => {
    const { names, files } = await laid({ 'byte-order': order, timecode: '01:02:03:23' })
    const little = order === 'little'
    const codes = ['01020323', '01020324', '01020400']
    for (const [n, bytes] of files.entries()) {
      const view = new DataView(bytes.buffer)
      expect(String.fromCharCode(...bytes.subarray(0, 4))).toBe(little ? 'XPDS' : 'SDPX')
      expect(new TextDecoder().decode(bytes.subarray(36, 36 + names[n]!.length + 1))).toBe(`${names[n]}\0`)
      expect(view.getUint32(1920, little).toString(16).padStart(8, '0')).toBe(codes[n])
      expect([view.getUint32(16, little), view.getUint32(772, little)]).toEqual([bytes.length, 21])
      expect([view.getFloat32(1940, little), view.getUint32(1628, little), view.getUint32(1632, little)]).toEqual([
        25, 12, 11
      ])
    }
    const source = await openSource(
      specAsFound(
        `dpx ${order}`,
        'moth',
        'dpx-sequence',
        files.map((bytes, n) => bytesFile(names[n]!, bytes))
      ),
      host
    )
    expect([source.facts.timecode, source.facts.rate, source.facts.pixelAspect]).toEqual([
      '01:02:03:23',
      [25, 1],
      [12, 11]
    ])
    await source.close()
  }
)

test('a clip without time code has none, and one that cannot be is refused', async () => {
  const { files } = await laid({})
  expect(new DataView(files[0]!.buffer).getUint32(1920)).toBe(0xffffffff)
  const outlet = newOutlet('o', format)
  const wrong = { ...outlet, options: { ...outlet.options, timecode: '01:00:00:25' } }
  const against = (rate: [number, number] | null): string => pourProblems(strapFacts({ rate }), wrong, null).join(' ')
  expect(against([25, 1])).toContain('counts frame 25 of a second that has 25')
  expect(against(null)).toContain('Give its rate first')
})

test.each([10, 12, 16] as const)(
  '%i bits: what is stored comes back code for code, with alpha and without',
  async bits => {
    await fc.assert(
      fc.asyncProperty(anyNoise(16), fc.boolean(), async (made, opaque) => {
        const frame = opaque ? { ...made, alpha: { mode: 'none' as const } } : made
        const form = wholeForm(16, frame.alpha, bits < 16 ? { bits, alphaBits: bits } : {})
        const due = storedFrame(frame, form, host.kernels)
        const told = deliverable(due, 1, { ...form, options: { bits: String(bits) } })
        const bytes = await format.encode(host, due, told, null)
        const source = await openSource(
          specAsFound(`dpx ${bits} ${Math.random()}`, 'x', 'dpx-sequence', [bytesFile('x.dpx', bytes)]),
          host
        )
        const found = await source.frame(0)
        await source.close()
        for (let i = 0; i < due.samples.length; i++)
          if (!opaque || i % 4 !== 3) expect(found.samples[i]).toBe(due.samples[i])
      }),
      { numRuns: 20 }
    )
  }
)

test('codes of fewer bits are the nearest there are, and premultiplied colour stays within its alpha', () => {
  const alpha = { mode: 'premultiplied' as const, matte: '#000000' as const }
  fc.assert(
    fc.property(fc.nat(65535), fc.nat(65535), fc.constantFrom(10, 12), (a, b, bits) => {
      const [low, high] = [Math.min(a, b), Math.max(a, b)]
      const samples = Uint16Array.from([low, low, high, high])
      const frame = { width: 1, height: 1, depth: 16 as const, samples, alpha, transfer: 'srgb' as const }
      const found = storedFrame(frame, wholeForm(16, alpha, { bits, alphaBits: bits }), host.kernels).samples
      const step = 65535 / (2 ** bits - 1)
      found.forEach((value, i) => expect(Math.abs(value - samples[i]!)).toBeLessThanOrEqual(step / 2 + 1))
      expect(found[0]).toBeLessThanOrEqual(found[3]!)
    })
  )
})
