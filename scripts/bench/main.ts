/** `npm run bench`: frames per second, bytes a frame, and ratios to a library yardstick, all in one run. */
import { fileURLToPath } from 'node:url'
import { wholeForm } from '../../core/media/formats/form'
import { Buffer } from 'node:buffer'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { Decoder as Turbo, Frame as TurboFrame } from 'turbores'
import { Lease } from '../../core/frame/kernels/lease'
import { SceneRenderer } from '../../core/draw/scene/render'
import { figure } from '../../core/draw/scene/elements/shape'
import { newElement } from '../../core/draw/scene/fresh'
import type { Scene } from '../../core/draw/scene/scene'
import { starters } from '../../core/draw/scene/starters'
import type { FilesSpec, SourceFacts } from '../../core/source/source'
import { lookAt } from '../../core/judge/examine/look'
import { withDepth } from '../../core/frame/depth'
import type { Frame } from '../../core/frame/frame'
import { encodePng } from '../../core/media/pictures/png/encode'
import { decodePixels } from '../../core/media/pictures/png/decode'
import { readPngInfo } from '../../core/media/pictures/png/header'
import { readChunk } from '../../core/media/pictures/png/chunks'
import { concatenate } from '../../core/base/files/bytes'
import { memoryReader } from '../../core/base/files/file'
import { decodeRle } from '../../core/media/codecs/animation/rle'
import { readConfig, writeConfig } from '../../core/media/codecs/ffv1/config'
import { Ffv1Pictures } from '../../core/media/codecs/ffv1/decode'
import { encodePicture, slicesDown } from '../../core/media/codecs/ffv1/encode'
import type { FileRef } from '../../core/base/files/file'
import { memorySink } from '../../core/base/files/sinks'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { pour } from '../../core/run/pour/pour'
import { compareFrames } from '../../core/judge/proof/compare'
import { prove } from '../../core/judge/proof/prove'
import { specAsFound } from '../../core/open/stored'
import type { Deliverable } from '../../core/media/formats/deliverable'
import { formatById } from '../../core/open/registry'
import { stepKinds } from '../../core/prepare/kinds'
import { newStep, prepared } from '../../core/prepare/preparation'
import { viewPixels } from '../../core/judge/view/pixels'
import { nodeHost } from '../../platform/node/host'
import { threadPool } from '../../platform/node/pool'
import { benchFrame, fullFrame, graphicFrame } from './clip'
import { codecBenches } from './codecs'
import { lookingBenches } from './looking'
import type { Row } from './row'
import { keyBenches } from './keys'
import { realClips } from './real'

const SAMPLES = 8
const host = await nodeHost(fileURLToPath(new URL('./kernels.wasm', import.meta.url)))
const { kernels } = host
sharp.concurrency(1)

process.stderr.write('Making the clip …\n')
const wide = Array.from({ length: SAMPLES }, (_, i) => benchFrame(i * 6, 1920, 1080, 16))
const narrow = wide.map(frame => withDepth(frame, 8, kernels))
const covered = wide[0]!.samples.filter((code, i) => i % 4 === 3 && code > 0).length / (1920 * 1080)

/** Runs over the clip until two seconds have passed; the first round warms up and is not counted. */
async function measure(what: string, work: (frame: number) => unknown): Promise<Row> {
  let bytes = 0
  let frames = 0
  for (let i = 0; i < 2; i++) await work(i)
  const began = performance.now()
  while (performance.now() - began < 2000) {
    for (let i = 0; i < SAMPLES; i++) {
      const result = await work(i)
      if (result instanceof Uint8Array) bytes += result.length
      frames++
    }
  }
  return {
    what,
    perSecond: (frames * 1000) / (performance.now() - began),
    ...(bytes ? { bytes: Math.round(bytes / frames) } : {})
  }
}

function against(row: Row, yard: Row): Row {
  return {
    ...row,
    ratio: `${(row.perSecond / yard.perSecond).toFixed(2)} x speed, ${((row.bytes ?? 0) / (yard.bytes ?? 1)).toFixed(2)} x size`
  }
}

function sharpPng(frame: Frame): Promise<Uint8Array> {
  const raw = { width: frame.width, height: frame.height, channels: 4 as const }
  const input = frame.depth === 16 ? (frame.samples as Uint16Array) : Buffer.from(frame.samples.buffer)
  const image = sharp(input, { raw })
  return (frame.depth === 16 ? image.toColourspace('rgb16') : image)
    .png({ compressionLevel: 6, adaptiveFiltering: true })
    .toBuffer()
}

/** A file for workers to read where it lies: bytes within a task would be copied to a worker with every frame. */
const folder = mkdtempSync(path.join(tmpdir(), 'pour-bench-'))
process.on('exit', () => rmSync(folder, { recursive: true }))
function onDisk(name: string, bytes: Uint8Array): FileRef {
  const location = path.join(folder, name)
  writeFileSync(location, bytes)
  return { kind: 'disk', path: name, size: bytes.length, location }
}

/** A recipe for frames of the bench. */
const deliverableOf = (frame: Frame, options: Deliverable['options'] = {}): Deliverable => ({
  width: frame.width,
  height: frame.height,
  frames: SAMPLES,
  rate: [25, 1],
  ...wholeForm(frame.depth, frame.alpha),
  pixelAspect: [1, 1],
  fields: 'progressive',
  sound: null,
  options,
  names: []
})

const only = process.argv[2]
const rows: Row[] = []
async function bench(id: string, run: () => Promise<Row[]>): Promise<void> {
  if (only && !id.includes(only)) return
  for (const row of await run()) {
    rows.push(row)
    console.log(
      `${row.what.padEnd(44)} ${row.perSecond.toFixed(1).padStart(8)} f/s ${row.bytes ? `${row.bytes.toLocaleString('en').padStart(12)} bytes` : ''.padStart(18)}  ${row.ratio ?? ''}`
    )
  }
}

console.log(
  `1920x1080, ${SAMPLES} of 48 frames, ${Math.round(covered * 100)} % covered, one thread, Node.js ${process.versions.node}\n`
)

await bench('rle', async () => {
  const pixels = narrow.map(f => f.samples as Uint8Array)
  const encoded = pixels.map(p => kernels.rleEncode(p, null, 1920, 1080, 32))
  return [
    await measure('Animation RLE, encode', i => kernels.rleEncode(pixels[i]!, null, 1920, 1080, 32)),
    await measure('Animation RLE, encode what changed', i =>
      kernels.rleEncode(pixels[i]!, pixels[(i + 1) % SAMPLES]!, 1920, 1080, 32)
    ),
    await measure(
      'Animation RLE, decode',
      i =>
        void decodeRle(encoded[i]!, null, { width: 1920, height: 1080, depth: 32 }, kernels, {
          file: 'bench',
          place: 'frame'
        })
    )
  ]
})

await bench('png', async () => {
  const result: Row[] = []
  for (const [frames, name] of [
    [narrow, '8+8'],
    [wide, '16+16']
  ] as const) {
    const yard = await measure(`PNG ${name}, sharp at compression 6`, i => sharpPng(frames[i]!))
    result.push(yard, against(await measure(`PNG ${name}, encode`, i => encodePng(host, frames[i]!)), yard))
    const files = frames.map(f => encodePng(host, f))
    result.push(
      await measure(`PNG ${name}, decode`, async i => {
        const reader = memoryReader('bench', files[i]!)
        const info = await readPngInfo(reader)
        const data = await Promise.all(info.chunks.filter(c => c.type === 'IDAT').map(c => readChunk(reader, c)))
        await decodePixels(host, 'bench', info, concatenate(data))
      })
    )
  }
  return result
})

/** What a native library takes for the same. */
const sharpTiff = (frame: Frame, compression: 'lzw' | 'deflate'): Promise<Uint8Array> => {
  const { width, height, samples, depth } = frame
  const input = depth === 16 ? (samples as Uint16Array) : Buffer.from(samples.buffer)
  const image = sharp(input, { raw: { width, height, channels: 4 } })
  return (depth === 16 ? image.toColourspace('rgb16') : image).tiff({ compression, predictor: 'horizontal' }).toBuffer()
}

await bench('tiff', async () => {
  const result: Row[] = []
  const format = formatById('tiff-sequence')
  for (const [frames, name] of [
    [narrow, '8+8'],
    [wide, '16+16']
  ] as const)
    for (const compression of ['lzw', 'deflate'] as const) {
      const yard = await measure(`TIFF ${compression} ${name}, sharp`, i => sharpTiff(frames[i]!, compression))
      const shape = deliverableOf(frames[0]!, { compression })
      result.push(
        yard,
        against(
          await measure(`TIFF ${compression} ${name}, encode`, i => format.encode(host, frames[i]!, shape, null)),
          yard
        )
      )
    }
  return result
})

await bench('ffv1', async () => {
  const result: Row[] = []
  for (const [frames, name] of [
    [narrow, '8+8'],
    [wide, '16+16']
  ] as const) {
    const shape = { fields: 'progressive', pixelAspect: [1, 1] } as const
    const png = await measure(`PNG ${name}, encode, for the ratio`, i => encodePng(host, frames[i]!))
    result.push(
      png,
      against(await measure(`FFV1 ${name}, encode`, i => encodePicture(frames[i]!, shape, kernels)), png)
    )
    const packets = frames.map(frame => encodePicture(frame, shape, kernels))
    const { depth } = frames[0]!
    const config = writeConfig({ bits: depth, alpha: true, slicesDown: slicesDown(1920, 1080) })
    const pictures = new Ffv1Pictures(readConfig(config, 'bench'), { width: 1920, height: 1080 }, 'bench', kernels)
    result.push(await measure(`FFV1 ${name}, decode`, i => void pictures.rgba(packets[i]!, 'frame')))
  }
  return result
})

await bench('prores', async () => {
  const rows: Row[] = []
  const several = (make: (index: number) => Frame): Frame[] => Array.from({ length: SAMPLES }, (_, i) => make(i * 6))
  const clips = { graphic: several(graphicFrame), grain: wide, 'full frame': several(fullFrame) }
  for (const id of ['quicktime-prores-4444', 'quicktime-prores-4444-xq']) {
    const format = formatById(id)
    const shape = deliverableOf(wide[0]!)
    for (const [clip, frames] of Object.entries(clips)) {
      // no other encoder is at hand: the yardstick is a library's decoder, at the same packets
      const packets: Uint8Array[] = []
      for (const frame of frames) packets.push((await format.encode(host, frame, shape, null)) as Uint8Array)
      const proresFourCc = id.endsWith('xq') ? 'ap4x' : 'ap4h'
      const decoder = await Turbo.create({ proresFourCc, useSharedMemory: false, concurrency: 0 })
      if (decoder instanceof Error) throw decoder
      const target = new TurboFrame()
      const yard = await measure(`${format.name}, ${clip}: turbores decodes`, i => decoder.decode(packets[i]!, target))
      const own = await measure(`${format.name}, ${clip}: encode`, i => format.encode(host, frames[i]!, shape, null))
      rows.push(yard, { ...own, ratio: `${(own.perSecond / yard.perSecond).toFixed(2)} x speed of decoding` })
      decoder.close()
    }
  }
  return rows
})

/** Gives back what was made, as a pour does with frames it has encoded. */
const again = (samples: Uint8Array | Uint16Array): void => new Lease({ samples }, kernels).end()

await bench('alpha', async () => [
  await measure('premultiply, 16 bit', i => again(kernels.premultiply16(wide[i]!.samples as Uint16Array, [0, 0, 0]))),
  await measure('un-premultiply, 16 bit', i =>
    again(kernels.unpremultiply16(wide[i]!.samples as Uint16Array, [0, 0, 0]))
  ),
  await measure('premultiply, 8 bit', i => again(kernels.premultiply8(narrow[i]!.samples as Uint8Array, [0, 0, 0])))
])

await bench('proof', async () => {
  // as a lossy codec would leave it: every visible code a little off
  const off = wide.map(frame => ({
    ...frame,
    samples: (frame.samples as Uint16Array).map((code, i) =>
      i % 4 === 3 ? code : Math.min(65535, code + (code > 0 ? 37 + (i % 91) : 0))
    )
  }))
  return [
    await measure('comparing two 16-bit frames, equal', i => void compareFrames(wide[i]!, wide[i]!, kernels)),
    await measure('comparing two 16-bit frames, all differing', i => void compareFrames(wide[i]!, off[i]!, kernels)),
    await measure('examining a 16-bit frame', i => void lookAt(wide[i]!, kernels))
  ]
})

await bench('examine', async () => {
  // bringing in: how much looking at every frame adds to decoding it; the ratio is what counts
  const result: Row[] = []
  for (const { name, frame } of realClips) {
    const files: Uint8Array[] = []
    for (let i = 0; i < SAMPLES; i++) files.push(new Uint8Array(await frame(i / (SAMPLES - 1))))
    const decoded = async (i: number): Promise<Frame> => {
      const reader = memoryReader('bench', files[i]!)
      const info = await readPngInfo(reader)
      const data = await Promise.all(info.chunks.filter(c => c.type === 'IDAT').map(c => readChunk(reader, c)))
      return decodePixels(host, 'bench', info, concatenate(data))
    }
    const looked = async (i: number): Promise<void> => {
      const seen = await decoded(i)
      lookAt(seen, kernels)
      again(seen.samples as Uint8Array)
    }
    const alone = async (i: number): Promise<void> => again((await decoded(i)).samples as Uint8Array)
    // the whole clip in turns, and the median of all turns: a machine that is busy for a moment falsifies neither, and
    // memory that is swept between frames counts where it was used
    const times: [number[], number[]] = [[], []]
    for (let round = 0; round < 16; round++)
      for (const [n, work] of [alone, looked].entries()) {
        const began = performance.now()
        for (let i = 0; i < SAMPLES; i++) await work(i)
        times[n]!.push((performance.now() - began) / SAMPLES)
      }
    const [decode, both] = times.map(list => list.sort((x, y) => x - y)[list.length >> 1]!) as [number, number]
    result.push(
      { what: `${name}: decode`, perSecond: 1000 / decode },
      {
        what: `${name}: decode and examine`,
        perSecond: 1000 / both,
        ratio: `${(both / decode).toFixed(2)} x the time of decoding`
      }
    )
  }
  return result
})

await bench('scene', async () => {
  const result: Row[] = []
  const starter = starters.find(({ id }) => id === 'name-strap')!
  const made = starter.make(Object.fromEntries(starter.fields.map(field => [field.id, field.default])), {
    width: 1920,
    height: 1080,
    rate: [25, 1],
    seconds: starter.seconds
  })
  const shadow = { x: 4, y: 8, soft: 20, colour: '#000000', opacity: 0.5 }
  const shadowed = { ...made, elements: made.elements.map((each, n) => (n < 3 ? { ...each, shadow } : each)) }
  const moving: Scene = {
    ...made,
    elements: Array.from({ length: 10 }, (_, n) => ({
      ...newElement(`bar-${n}`, `Bar ${n}`, figure('rectangle', 600, 120, { corner: 20, fillOpacity: 0.6 }), made),
      y: 60 + 100 * n,
      tracks: [
        {
          of: 'x' as const,
          keys: [
            { at: 0, value: 400 + 20 * n, ease: 'linear' as const },
            { at: starter.seconds, value: 1500 - 20 * n, ease: 'linear' as const }
          ]
        }
      ]
    }))
  }
  const rows: [string, Scene, number][] = [
    ['name strap, sharp', made, 1],
    ['name strap, three shadows', shadowed, 1],
    ['name strap, 8 moments a frame', made, 8],
    ['ten moving bars', moving, 1]
  ]
  for (const [name, scene, moments] of rows) {
    const renderer = await SceneRenderer.of({ ...scene, blur: { moments, open: 0.5 } }, host)
    let index = 0
    result.push(
      await measure(`scene: ${name}`, () => {
        renderer.frame(index++ % made.frames)
      })
    )
  }
  // forty curves from everywhere to everywhere, the same in every run
  const place = (n: number): string => `${(n * 733) % 1920} ${(n * 419) % 1080}`
  const curves = Array.from(
    { length: 40 },
    (_, n) =>
      `<path stroke-width="${2 + (n % 9)}" d="M${place(4 * n)}C${place(4 * n + 1)} ${place(4 * n + 2)} ${place(4 * n + 3)}"/>`
  )
  const text =
    `<svg xmlns="http://www.w3.org/2000/svg" width="1920" height="1080">` +
    `<g fill="none" stroke="#4a7c34">${curves.join('')}</g></svg>`
  const drawing = new TextEncoder().encode(text)
  const yardstick = await measure('drawing: forty curves, sharp at 8 bits', () =>
    sharp(Buffer.from(drawing)).raw().toBuffer()
  )
  const own = await measure('drawing: forty curves', async () => {
    const file = { kind: 'bytes', path: 'curves.svg', size: drawing.length, bytes: drawing } as const
    const source = await formatById('svg').open('curves', [file], host)
    await source.frame(0)
    await source.close?.()
  })
  result.push(yardstick, own)
  return result
})

await bench('steps', async () => {
  const rows: Row[] = []
  const facts = {
    name: 'bench',
    format: 'png-sequence',
    kind: 'bench',
    width: 1920,
    height: 1080,
    frames: SAMPLES,
    rate: [24, 1] as [number, number],
    rateFrom: 'file' as const,
    bitDepth: 16 as const,
    claim: { mode: 'straight' as const, matte: null, says: '' },
    colour: null,
    pixelAspect: [1, 1] as [number, number],
    plays: null,
    bytes: 0,
    findings: []
  }
  const source = { facts, frame: (i: number) => Promise.resolve(wide[i]!), close: () => Promise.resolve() }
  for (const kind of stepKinds.filter(
    k => !k.order && (k.id === 'chroma-key' || !Object.values(k.fields).some(field => field.type === 'source'))
  )) {
    const made = prepared(
      source,
      [
        newStep(
          'bench',
          kind,
          kind.id === 'drawn-mask'
            ? {
                shape: [
                  {
                    frame: 1,
                    kind: 'ellipse',
                    points: [
                      [400, 200],
                      [1500, 900]
                    ]
                  }
                ]
              }
            : {}
        )
      ],
      new Map(),
      kernels
    )
    // what a viewer waits for: the step on the frame at hand, and the pixels to draw
    rows.push(await measure(`step: ${kind.name}`, async i => void viewPixels(await made.frame(i), 'over', kernels)))
  }
  return rows
})

await bench('keys', async () => {
  const rows: Row[] = []
  for (const { what, work } of keyBenches(kernels)) {
    // a clip has hundreds of frames: what the engine does to the first dozen is not what it costs
    for (let i = 0; i < 12; i++) await work()
    rows.push(await measure(what, async () => void (await work())))
  }
  return rows
})

const workers = (size?: number) =>
  threadPool(
    fileURLToPath(new URL('./worker.mjs', import.meta.url)),
    fileURLToPath(new URL('./kernels.wasm', import.meta.url)),
    { ...(size ? { size } : {}) }
  )

await bench('workers', async () => {
  // the same pictures through the pool: throughput should grow with the processors
  const source: FilesSpec = {
    kind: 'files',
    id: 'bench',
    name: 'bench',
    format: 'png-sequence',
    files: narrow.map((frame, i) => onDisk(`narrow_${i}.png`, encodePng(host, frame))),
    numbers: null,
    interpretation: { rate: null, rateFrom: null, alpha: null, holdGaps: false },
    findings: []
  }
  const deliverable = deliverableOf(wide[0]!)
  const rows: Row[] = []
  for (const size of [1, availableParallelism()]) {
    const pool = workers(size)
    const round = (): Promise<unknown> =>
      Promise.all(
        Array.from({ length: SAMPLES }, (_, index) =>
          pool.run('encode', [{ source, index, before: null, format: 'quicktime-prores-4444', deliverable }])
        )
      )
    await round()
    const began = performance.now()
    for (let n = 0; n < 4; n++) await round()
    rows.push({
      what: `PNG to ProRes 4444, ${size} ${size === 1 ? 'worker' : 'workers'}`,
      perSecond: (4 * SAMPLES * 1000) / (performance.now() - began)
    })
    await pool.close()
  }
  return rows
})

await bench('codecs', () => codecBenches({ host, frames: wide, measure, deliverableOf, onDisk }))

/** Pictures of the clip on disk, over and over, as a source. */
const onDiskSource = (frames: number): { reference: FilesSpec; facts: SourceFacts } => ({
  reference: {
    kind: 'files',
    id: `whole ${frames}`,
    name: 'whole',
    format: 'png-sequence',
    files: Array.from({ length: frames }, (_, i) => onDisk(`wide_${i}.png`, encodePng(host, wide[i % SAMPLES]!))),
    numbers: null,
    interpretation: { rate: [25, 1], rateFrom: 'asked', alpha: null, holdGaps: false },
    findings: []
  },
  facts: {
    name: 'whole',
    format: 'png-sequence',
    kind: 'bench',
    width: 1920,
    height: 1080,
    frames,
    intra: true,
    rate: [25, 1],
    rateFrom: 'file',
    bitDepth: 16,
    claim: { mode: 'straight', matte: null, says: '' },
    colour: null,
    pixelAspect: [1, 1],
    plays: null,
    bytes: 0,
    findings: []
  }
})

await bench('looking', async () => {
  const pool = workers()
  const rows = await lookingBenches({ ...onDiskSource(96), host, pool })
  await pool.close()
  return rows
})

await bench('delivery', async () => {
  // a whole pour and its proof: source pictures read, delivered, read back and compared, over all workers
  const pool = workers()
  const { reference, facts } = onDiskSource(48)
  const rows: Row[] = []
  for (const id of ['quicktime-prores-4444', 'quicktime-png', 'quicktime-animation']) {
    const format = formatById(id)
    const plan = planPour(facts, newOutlet('o', format), null)
    const sink = memorySink()
    let began = performance.now()
    const noted = await pour({ source: reference, plan, target: { kind: 'film', sink } }, { host, pool })
    const poured = (48 * 1000) / (performance.now() - began)
    const file = sink.bytes()
    const spec = specAsFound(`delivered ${id}`, 'delivered', id, [onDisk(`delivered.${format.extension}`, file)])
    began = performance.now()
    const report = await prove(
      {
        reference,
        frames: plan.frames,
        expected: { ...plan.deliverable, ...plan.due, bytes: null },
        delivered: { ...spec, interpretation: { ...spec.interpretation, alpha: plan.due.alpha } },
        ...noted
      },
      { host, pool }
    )
    const proven = (48 * 1000) / (performance.now() - began)
    rows.push(
      { what: `pour 48 frames, ${format.name}`, perSecond: poured, bytes: Math.round(file.length / 48) },
      { what: `prove them (${report.verdict})`, perSecond: proven, ratio: `${(proven / poured).toFixed(2)} x the pour` }
    )
  }
  await pool.close()
  return rows
})
