/**
 * What Pour reads, encoded by the stranger: the pictures that its own decoder shows must be those that Pour shows, code
 * for code in RGB, and to the rounding of one conversion in Y'CbCr.
 */
import * as AV from 'node-av/constants'
import { describe, expect, test } from 'vitest'
import { formats, recognise } from '../../core/open/registry'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import type { Source } from '../../core/source/source'
import { bytesFile, testHost } from '../unit/support'
import { pictureTrack, see, write, type SeenTrack, type Written } from './library'
import { clip } from './material'
import { rgbaOf } from './pixels'
import { asBroadcast } from './seen'
import { planesFor } from './planes'

const host = await testHost()
let opened = 0

const ENDINGS: Record<string, string> = {
  matroska: 'mkv',
  mov: 'mov',
  avi: 'avi',
  mxf: 'mxf',
  webm: 'webm',
  mp4: 'mp4'
}

function film(
  codec: string,
  layout: string,
  container: string,
  more: Partial<Written> & { full?: boolean; count?: number } = {}
): Written {
  const { full = false, count, ...rest } = more
  const [width, height] = [more.width ?? 62, more.height ?? 46]
  return {
    container,
    name: `film.${ENDINGS[container]}`,
    codec,
    layout,
    width,
    height,
    rate: [25, 1],
    pictures: clip(width, height, true, count).map(frame => planesFor(frame, layout, { full })),
    ...rest
  }
}

/** The formats that were read in this file. */
const read = new Set<string>()

async function readByPour(name: string, bytes: Uint8Array): Promise<Source> {
  const file = bytesFile(name, bytes)
  const reader = await host.openFile(file)
  const found = await recognise(reader)
  await reader.close()
  if (!found) throw new Error('Pour does not recognise it')
  read.add(found.format.id)
  return openSource(specAsFound(`read ${opened++}`, name, found.format.id, [file]), host)
}

interface Bound {
  colour: number
  alpha: number
}

/** Codecs of broadcast, whose chroma of half the columns lies on the even ones; of others it is repeated. */
const CO_SITED = ['prores_ks', 'cfhd', 'dnxhd']

/** Luma within black and white, and colours that stay within them, since readers cut off what is beyond differently. */
function within(made: Written, middle: number): Written {
  for (const { u, v, y } of made.pictures) {
    y!.samples.forEach((code, i) => (y!.samples[i] = middle / 2 + code / 2))
    for (const chroma of [u!, v!])
      chroma.samples.forEach((code, i) => (chroma.samples[i] = middle + (code - middle) / 4))
  }
  return made
}

/** Holds Pour's reading of a film against the stranger's, in codes of the depth that Pour reads. */
async function same(made: Written, bound: Bound = { colour: 0.5001, alpha: 0.5001 }, full = false): Promise<Source> {
  const bytes = write(made)
  const track: SeenTrack = pictureTrack(see(bytes, made.name))
  const source = await readByPour(made.name, bytes)
  const { facts } = source
  expect([facts.frames, facts.width, facts.height]).toEqual([track.pictures.length, made.width, made.height])
  expect(facts.rate && facts.rate[0] / facts.rate[1]).toBeCloseTo(made.rate[0] / made.rate[1], 9)
  for (const [n, picture] of track.pictures.entries()) {
    const frame = await source.frame(n)
    const most = frame.depth === 8 ? 255 : 65535
    const beside = track.beside[n]?.planes.y
    const seen = beside ? { ...picture, planes: { ...picture.planes, a: beside } } : picture
    const { planes, lies } = CO_SITED.includes(made.codec) ? asBroadcast(seen) : seen
    const due = rgbaOf(planes, picture, lies, {
      matrix: made.height > 576 ? 'bt709' : 'bt601',
      full: full || (picture.lies.full ?? false)
    })
    const worst = { colour: 0, alpha: 0 }
    for (let i = 0; i < due.length; i++) {
      const off = Math.abs(Math.min(1, Math.max(0, due[i]!)) * most - frame.samples[i]!)
      const which = i % 4 === 3 ? 'alpha' : 'colour'
      worst[which] = Math.max(worst[which], off)
    }
    const within = worst.colour <= bound.colour && worst.alpha <= bound.alpha
    expect(within, `frame ${n + 1} is off by ${JSON.stringify(worst)}`).toBe(true)
  }
  await source.close()
  return source
}

const EIGHT = ['bgr0', 'bgra', 'gray8', 'ya8', 'yuv420p', 'yuv422p', 'yuv444p', 'yuv411p', 'yuv410p', 'yuv440p']
const EIGHT_WITH_ALPHA = ['yuva420p', 'yuva422p', 'yuva444p']
const DEEP = [9, 10, 12, 14, 16].flatMap(bits => [`gbrp${bits}le`, `yuv420p${bits}le`, `yuv444p${bits}le`])
const DEEP_WITH_ALPHA = [
  ...[10, 12, 14, 16].map(bits => `gbrap${bits}le`),
  ...[9, 10, 16].flatMap(bits => [`yuva422p${bits}le`, `yuva444p${bits}le`])
]
const WHOLE = ['rgb48le', 'rgba64le', 'gray16le', 'gray10le', 'gray12le']

describe('FFV1 of every version, coder and layout', () => {
  describe.each([0, 1, 3])('version %i', level => {
    // the layouts that a version has are those the stranger's coder takes
    const layouts =
      level === 0
        ? ['bgr0', 'bgra', 'gray8', ...EIGHT.slice(4), 'yuva444p']
        : level === 1
          ? [...EIGHT, ...EIGHT_WITH_ALPHA]
          : [...EIGHT, ...EIGHT_WITH_ALPHA, ...DEEP, ...DEEP_WITH_ALPHA, ...WHOLE]
    test.each(layouts)('%s', async layout => {
      for (const coder of ['rice', 'range_def', 'range_tab'])
        // Golomb codes are of 8 bits alone
        if (coder !== 'rice' || !/\d\dle|9le/.test(layout))
          await same(film('ffv1', layout, 'matroska', { codecOptions: { level, coder }, gop: 3 }))
    })
  })

  test.each(['avi', 'mov', 'matroska'])('in %s, of one frame on the other, slices of all counts', async container => {
    for (const slices of [4, 6, 9, 12, 16, 24])
      for (const slicecrc of [0, 1])
        for (const context of [0, 1])
          await same(film('ffv1', 'bgra', container, { codecOptions: { level: 3, slices, slicecrc, context }, gop: 4 }))
  })

  test('Y’CbCr of full range is read so where Matroska says it', async () => {
    for (const layout of ['yuv420p', 'yuva444p', 'yuv444p10le'])
      await same(
        film('ffv1', layout, 'matroska', { full: true, colour: { range: AV.AVCOL_RANGE_JPEG }, gop: 1 }),
        undefined,
        true
      )
  })
})

test.each(
  [
    ['utvideo', ['gbrp', 'gbrap', 'yuv420p', 'yuv422p', 'yuv444p']],
    ['magicyuv', ['gbrp', 'gbrap', 'yuva444p', 'yuv422p', 'yuv420p', 'yuv444p', 'gray8']]
  ].flatMap(([codec, layouts]) =>
    (layouts as string[]).flatMap(layout =>
      ['avi', 'mov', 'matroska'].map(container => [codec as string, layout, container] as const)
    )
  )
)('%s, %s in %s', async (codec, layout, container) => {
  const predictions = codec === 'utvideo' ? ['none', 'left', 'gradient', 'median'] : ['left', 'gradient', 'median']
  for (const pred of predictions)
    // the stranger's coder knows no gradient for one of them
    if (codec !== 'utvideo' || pred !== 'gradient')
      await same(film(codec, layout, container, { codecOptions: { pred } }))
})

test('MagicYUV that names no matrix says which one is taken; RGB has none', async () => {
  const untold = async (layout: string): Promise<string[]> =>
    (await same(film('magicyuv', layout, 'avi'))).facts.findings.map(({ id }) => id)
  expect(await untold('yuv444p')).toContain('colour-untagged')
  expect(await untold('gbrap')).not.toContain('colour-untagged')
})

test.each([
  ['png', 'rgba', 'matroska'],
  ['png', 'rgba64be', 'matroska'],
  ['png', 'rgb24', 'matroska'],
  ['png', 'gray8', 'matroska'],
  ['png', 'rgba', 'avi'],
  ['png', 'rgb48be', 'avi'],
  ['png', 'rgba', 'mov'],
  ['png', 'rgba64be', 'mov'],
  ['png', 'ya8', 'mov'],
  ['png', 'ya16be', 'mov'],
  ['qtrle', 'argb', 'mov'],
  ['qtrle', 'rgb24', 'mov'],
  ['rawvideo', 'argb', 'mov'],
  ['rawvideo', 'rgb24', 'mov'],
  ['rawvideo', 'bgra', 'avi'],
  ['rawvideo', 'bgr24', 'avi']
])('%s, %s in %s', async (codec, layout, container) => {
  await same(film(codec, layout, container, { gop: 3 }))
  await same(film(codec, layout, container, { width: 33, height: 17 }))
})

test.each(['rgb24', 'rgb48le'])('JPEG 2000 without loss, %s in QuickTime', async layout => {
  await same(film('jpeg2000', layout, 'mov', { codecOptions: { pred: 'dwt53' } }))
  await same(film('jpeg2000', layout, 'mov', { codecOptions: { pred: 'dwt53' }, width: 33, height: 17 }))
})

describe('coded with loss', () => {
  test.each([
    ['4444', 'yuva444p10le', 'mov'],
    ['4444xq', 'yuva444p10le', 'mov'],
    ['4444', 'yuva444p10le', 'mxf'],
    ['4444', 'yuva444p10le', 'matroska'],
    ['4444', 'yuv444p10le', 'mov']
  ])('ProRes %s, %s in %s', async (profile, layout, container) => {
    const bound = { colour: 128, alpha: 16 }
    await same(film('prores_ks', layout, container, { codecOptions: { profile } }), bound)
    await same(film('prores_ks', layout, container, { codecOptions: { profile }, width: 131, height: 67 }), bound)
  })

  // code for code: both round as the bits ask, and both hand out twelve bits
  test.each(
    ['mov', 'avi', 'matroska'].flatMap(container =>
      ['gbrap12le', 'gbrp12le'].map(layout => [layout, container] as const)
    )
  )('wavelet films, %s in %s', async (layout, container) => {
    for (const [width, height] of [
      [64, 40],
      [112, 70]
    ] as const)
      for (const quality of ['film3+', 'film1', 'low'])
        await same(film('cfhd', layout, container, { width, height, codecOptions: { quality } }))
  })

  // a transform in real numbers and one in whole ones: two codes of ten bits
  test.each(['mov', 'mxf'])('VC-3 of red, green and blue, in %s', async container => {
    const [width, height] = [256, 144]
    await same(film('dnxhd', 'gbrp10le', container, { width, height, codecOptions: { profile: 'dnxhr_444' } }), {
      colour: 130,
      alpha: 0
    })
  })

  test.each(['top-first', 'bottom-first'] as const)('ProRes of fields, %s, says so by its frames', async fieldOrder => {
    const made = film('prores_ks', 'yuva444p10le', 'matroska', {
      codecOptions: { profile: '4444' },
      flags: [AV.AV_CODEC_FLAG_INTERLACED_DCT],
      fieldOrder
    })
    const source = await same(made, { colour: 128, alpha: 16 })
    expect(source.facts.fields).toBe(fieldOrder)
    expect(source.facts.findings.map(({ id }) => id)).toContain('interlaced')
  })

  test.each([
    ['prores_ks', 'yuv422p10le', 'mov', { colour: 290, alpha: 0 }],
    ['prores_ks', 'yuv422p10le', 'mxf', { colour: 290, alpha: 0 }],
    ['prores_ks', 'yuv422p10le', 'matroska', { colour: 290, alpha: 0 }],
    ['cfhd', 'yuv422p10le', 'mov', { colour: 80, alpha: 0 }],
    ['cfhd', 'yuv422p10le', 'avi', { colour: 80, alpha: 0 }],
    ['mjpeg', 'yuvj420p', 'mov', { colour: 2.01, alpha: 0 }],
    ['mjpeg', 'yuvj422p', 'avi', { colour: 2.01, alpha: 0 }],
    ['mjpeg', 'yuvj444p', 'matroska', { colour: 2.01, alpha: 0 }]
  ] as const)('%s, %s in %s', async (codec, layout, container, bound) => {
    const made = film(codec, layout, container, codec === 'cfhd' ? { width: 96, height: 40 } : {})
    if (codec !== 'mjpeg') {
      await same(within(made, 512), bound)
      return
    }
    // chroma of fewer samples is brought to its size by each reader in its own way: pictures of grey have none
    for (const { u, v, y } of made.pictures) {
      const middle = layout.includes('10') ? 512 : 128
      u!.samples.fill(middle)
      v!.samples.fill(middle)
      y!.samples.forEach((code, i) => (y!.samples[i] = middle / 2 + code / 2))
    }
    await same(made, bound)
  })

  test.each([
    ['yuv420p', [62, 46]],
    ['yuv420p', [37, 23]],
    ['yuv444p', [37, 23]],
    ['yuva420p', [62, 46]],
    ['yuva420p', [37, 23]]
  ] as const)('VP9, %s at %j', async (layout, [width, height]) => {
    await same(film('libvpx-vp9', layout, 'webm', { width, height, codecOptions: { crf: 12 } }), {
      colour: 1,
      alpha: 0
    })
  })

  test.each([
    [62, 46],
    [37, 23]
  ])('VP8 at %i x %i', async (width, height) => {
    await same(film('libvpx', 'yuv420p', 'webm', { width, height, codecOptions: { crf: 12 } }), { colour: 1, alpha: 0 })
  })
})

/** A code of luma and one of chroma, and what lies between two of those. */
const VC3 = { 10: { colour: 290, alpha: 0 }, 8: { colour: 1140, alpha: 0 } }

describe('VC-3 of luma and chroma', () => {
  const quiet = (
    layout: string,
    container: string,
    size: readonly [number, number],
    options: Written['codecOptions']
  ) => {
    const made = film('dnxhd', layout, container, {
      width: size[0],
      height: size[1],
      codecOptions: options,
      ...(size[0] > 700 ? { count: 1 } : {})
    })
    return within(made, layout.includes('10') ? 512 : 128)
  }

  test.each([
    ['dnxhr_444', 'yuv444p10le', 'mov', [256, 144]],
    ['dnxhr_hqx', 'yuv422p10le', 'mov', [256, 144]],
    ['dnxhr_hqx', 'yuv422p10le', 'mxf', [320, 176]],
    ['dnxhr_hq', 'yuv422p', 'mov', [256, 144]],
    ['dnxhr_sq', 'yuv422p', 'mov', [320, 176]],
    ['dnxhr_lb', 'yuv422p', 'mxf', [256, 144]]
  ] as const)('of any size, %s, %s in %s', async (profile, layout, container, size) => {
    await same(quiet(layout, container, size, { profile }), VC3[layout.includes('10') ? 10 : 8])
  })

  test.each([
    [185, 'yuv422p10le', [1920, 1080]],
    [36, 'yuv422p', [1920, 1080]],
    [120, 'yuv422p', [1920, 1080]],
    [185, 'yuv422p', [1920, 1080]],
    [90, 'yuv422p10le', [1280, 720]],
    [60, 'yuv422p', [1280, 720]],
    [90, 'yuv422p', [1280, 720]],
    [84, 'yuv422p', [1440, 1080]],
    [42, 'yuv422p', [960, 720]]
  ] as const)('at %i Mbit/s, %s, %j', async (megabits, layout, size) => {
    const made = quiet(layout, 'mov', size, { profile: 'dnxhd', b: megabits * 1e6 })
    await same({ ...made, pictures: made.pictures.slice(0, 2) }, VC3[layout.includes('10') ? 10 : 8])
  })

  test('of 1080 lines in MXF, which stores 1088', async () => {
    await same(quiet('yuv422p10le', 'mxf', [1920, 1080], { profile: 'dnxhd', b: 185e6 }), VC3[10])
  })
})

describe('how films are built', () => {
  test('in fragments, behind an index of nothing', async () => {
    for (const codec of ['qtrle', 'png'])
      await same(
        film(codec, codec === 'qtrle' ? 'argb' : 'rgba', 'mov', {
          containerOptions: { movflags: 'frag_keyframe+empty_moov' },
          gop: 2
        })
      )
  })

  test('uneven times are held as long as the stranger says, the last as well', async () => {
    const made = film('ffv1', 'bgra', 'matroska', {
      timeBase: [1, 1000],
      times: [0, 40, 120, 160, 240, 280],
      durations: [40, 80, 40, 80, 40, 40],
      codecOptions: { level: 3 },
      gop: 1
    })
    const source = await readByPour('uneven.mkv', write(made))
    const { rate, frames } = source.facts
    expect((frames * rate![1]) / rate![0]).toBeCloseTo(0.32, 6)
    await source.close()
  })

  test('the shape of pixels that PNG in AVI says itself', async () => {
    const source = await readByPour('wide.avi', write(film('png', 'rgba', 'avi', { aspect: [16, 11] })))
    expect(source.facts.pixelAspect[0] / source.facts.pixelAspect[1]).toBeCloseTo(16 / 11, 3)
    await source.close()
  })
})

test('every film that is read, and that the table says a stranger has seen, was read here', () => {
  // the stranger decodes texture films and codes none: films of another writer are read in tests/unit/texture.test.ts
  const decoded = ['quicktime-texture', 'quicktime-texture-scaled']
  const due = formats.filter(({ id, container, stranger }) => container && stranger?.seen && !decoded.includes(id))
  // one profile stands for the rest of its kind, whose frames differ in how finely they are coded
  const kin = (id: string): string => id.replace(/-xq$/, '')
  const done = new Set([...read].map(kin))
  expect(due.map(({ id }) => id).filter(id => !done.has(kin(id)))).toEqual([])
})
