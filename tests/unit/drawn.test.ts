/**
 * SVG pictures: areas, strokes, gradients, groups and what is left out, against truth worked out here and a library's
 * own drawing.
 */
import sharp from 'sharp'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { takeIn } from '../../core/run/intake/intake'
import { openSource } from '../../core/open/open'
import { toBase64 } from '../../core/base/files/base64'
import { encodePng } from '../../core/media/pictures/png/encode'
import { readDrawing } from '../../core/draw/vector/svg/drawing'
import { cornersOf, turnOf } from '../../core/draw/vector/svg/marker'
import { looksLikeSvg } from '../../core/draw/vector/svg/tree'
import { bytesFile, damage, noise, survives, testHost } from './support'

const host = await testHost()
const svg = (inside: string, head = 'width="64" height="48"'): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" ${head}>${inside}</svg>`

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)

function drawn(inside: string, width = 64, height = 48): { at(x: number, y: number): number[]; alpha: number } {
  const { pixels } = readDrawing(svg(inside), 'a.svg').at(width, height)
  let alpha = 0
  for (let i = 3; i < pixels.length; i += 4) alpha += pixels[i]!
  return { at: (x, y) => [...pixels.subarray(4 * (y * width + x), 4 * (y * width + x) + 4)], alpha }
}

test('a pattern whose tile is larger than any picture is still laid', () => {
  const tile = '<pattern id="p" patternUnits="userSpaceOnUse" width="90000" height="90000">'
  const { at } = drawn(
    `${tile}<rect width="90000" height="90000"/></pattern><rect width="64" height="48" fill="url(#p)"/>`
  )
  expect(at(30, 20)).toEqual([0, 0, 0, 1])
})

describe('what is drawn covers what it should', () => {
  const areas: [string, string, number][] = [
    ['a rectangle between pixels', '<rect x="3.25" y="5.5" width="20.5" height="10.25"/>', 20.5 * 10.25],
    ['a circle', '<circle cx="30" cy="24" r="17.3"/>', Math.PI * 17.3 ** 2],
    ['an ellipse scaled', '<ellipse cx="15" cy="10" rx="9" ry="4" transform="scale(1.5 2)"/>', Math.PI * 36 * 3],
    ['a turned square', '<rect x="-8" y="-8" width="16" height="16" transform="translate(30 24) rotate(33)"/>', 256],
    ['a hole that runs the other way', '<path d="M4 4h30v30h-30zM10 10v10h10v-10z"/>', 800],
    ['a hole by even and odd', '<path fill-rule="evenodd" d="M4 4h30v30h-30zM10 10h10v10h-10z"/>', 800],
    ['no hole where both run the same way', '<path d="M4 4h30v30h-30zM10 10h10v10h-10z"/>', 900],
    ['rounded corners', '<rect x="4" y="4" width="40" height="30" rx="6"/>', 1200 - (4 - Math.PI) * 36],
    ['a line with flat ends', '<line x1="5" y1="9" x2="45" y2="9" stroke="#fff" stroke-width="3"/>', 120],
    ['a line with square ends', '<path d="M5 9H45" stroke="#fff" stroke-width="3" stroke-linecap="square"/>', 129],
    [
      'a line with round ends',
      '<path d="M9 9H45" stroke="#fff" stroke-width="6" stroke-linecap="round"/>',
      216 + Math.PI * 9
    ],
    [
      'a frame with mitred corners',
      '<rect x="10" y="10" width="30" height="20" fill="none" stroke="#000" stroke-width="4"/>',
      34 * 24 - 26 * 16
    ],
    ['dashes', '<path d="M4 9H52" stroke="#fff" stroke-width="2" stroke-dasharray="6 2"/>', 72],
    [
      'half of it by opacity',
      '<g opacity="0.5"><rect width="20" height="10"/><rect x="10" width="20" height="10"/></g>',
      150
    ],
    [
      'what is used twice',
      '<defs><rect id="r" width="5" height="4"/></defs><use href="#r"/><use xlink:href="#r" x="20" y="9"/>',
      40
    ]
  ]
  test.each(areas)('%s', (_, inside, area) => {
    expect(Math.abs(drawn(inside).alpha - area)).toBeLessThan(Math.max(0.02, area * 0.001))
  })

  test('a disc anywhere, at any size, within a thousandth', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 5, max: 21, noNaN: true }),
        fc.double({ min: 22, max: 26, noNaN: true }),
        fc.integer({ min: 1, max: 6 }),
        (r, c, times) => {
          const { alpha } = drawn(`<circle cx="${c}" cy="${c}" r="${r}"/>`, 64 * times, 48 * times)
          expect(Math.abs(alpha / (Math.PI * r * r * times * times) - 1)).toBeLessThan(0.001)
        }
      ),
      { numRuns: 40 }
    )
  })
})

test('colours, gradients and styles are those of the file', () => {
  const { at } = drawn(
    '<style>.deep{fill:#ff8000;fill-opacity:60%} rect{stroke:none}</style>' +
      '<linearGradient id="g" x2="1"><stop stop-color="#000"/><stop offset="1" stop-color="white" ' +
      'stop-opacity="0.5"/></linearGradient>' +
      '<rect class="deep" width="10" height="10"/><rect x="10" width="50" height="10" fill="url(#g)"/>' +
      '<radialGradient id="r" gradientUnits="userSpaceOnUse" cx="30" cy="30" r="10"><stop ' +
      'stop-color="red"/><stop offset="1" stop-color="blue"/></radialGradient>' +
      '<rect y="20" width="64" height="28" style="fill: url(#r)"/><rect y="12" width="9" height="6" ' +
      'fill="hsl(120, 100%, 25%)"/>'
  )
  const near = (found: number[], wanted: number[]): void =>
    found.forEach((value, c) => expect(value, `${found.join()} is not ${wanted.join()}`).toBeCloseTo(wanted[c]!, 2))
  near(at(4, 4), [0.6, 0.6 * (128 / 255), 0, 0.6])
  near(at(35, 4), [0.51 * 0.745, 0.51 * 0.745, 0.51 * 0.745, 0.745])
  near(at(30, 30), [0.93, 0, 0.07, 1])
  near(at(1, 30), [0, 0, 1, 1])
  near(at(4, 14), [0, 128 / 255, 0, 1])
})

test('a drawing with curves, strokes and transforms is within a code or two of what a library draws, in the mean', async () => {
  const text = svg(
    '<g transform="translate(8 6) scale(1.4)"><path d="M2 20C2 6 14 2 20 12S34 30 36 8q2-8 4 6t-6 12L20 30Z" ' +
      'fill="#3a7d44" stroke="#f2c14e" stroke-width="2.5" stroke-linejoin="round"/>' +
      '<polyline points="4,4 12,10 20,3 30,9" fill="none" stroke="#123" stroke-width="1.3"/><circle cx="30" ' +
      'cy="20" r="5" fill="#fff" fill-opacity=".6"/></g>'
  )
  const ours = readDrawing(text, 'a.svg').at(64, 48).pixels
  const { data } = await sharp(Buffer.from(text)).ensureAlpha().raw().toBuffer({ resolveWithObject: true })
  let sum = 0
  let most = 0
  for (let i = 3; i < data.length; i += 4) {
    const apart = Math.abs(255 * ours[i]! - data[i]!)
    sum += apart
    most = Math.max(most, apart)
  }
  expect(sum / (data.length / 4)).toBeLessThan(1.5)
  expect(most).toBeLessThan(40)
})

describe('corners of a path', () => {
  const turns = (d: string): number[] => cornersOf(d).map(corner => Math.round(turnOf(corner)) + 0)
  const places = (d: string): string =>
    cornersOf(d)
      .map(({ x, y }) => `${x},${y}`)
      .join(' ')
  test.each([
    ['a line looks along itself', 'M0 0L10 10', '0,0 10,10', [45, 45]],
    ['a corner looks midway', 'M0 0H10V10', '0,0 10,0 10,10', [0, 45, 90]],
    ['midway is the shorter way round', 'M0 0H-10V10', '0,0 -10,0 -10,10', [180, 135, 90]],
    [
      'a closed path ends where it begins, and looks alike there',
      'M0 0H10V10Z',
      '0,0 10,0 10,10 0,0',
      [-67, 45, 158, -67]
    ],
    ['a curve looks as it leaves and arrives', 'M0 0C0 10 20 10 20 0', '0,0 20,0', [90, -90]],
    ['an arc has no corners within', 'M0 0A10 10 0 0 1 20 0', '0,0 20,0', [-90, 90]],
    ['several parts are one path', 'M0 0H5M0 9H5', '0,0 5,0 0,9 5,9', [0, 0, 0, 0]],
    ['a step that leads nowhere looks on', 'M0 0H5H5', '0,0 5,0 5,0', [0, 0, 0]]
  ])('%s', (_, d, at, looks) => {
    expect(places(d)).toBe(at)
    expect(turns(d)).toEqual(looks)
  })
})

test('a file is taken in as one picture with 16 bits, drawn at the size asked for, and says what it leaves out', async () => {
  const text = svg(
    '<rect width="32" height="48" fill="#fff" fill-opacity="0.6"/><text x="3" y="9">A</text><animate ' +
      'attributeName="x"/>'
  )
  const { found } = await takeIn(
    [bytesFile('leaf mark.svg', bytes(`<?xml version="1.0"?>\n<!-- made by hand -->\n${text}`))],
    host
  )
  const { spec, facts } = found[0]!
  expect(facts).toMatchObject({ width: 64, height: 48, bitDepth: 16, frames: 1, layersAre: 'sizes', layer: '64x48' })
  expect(facts.findings.map(({ sentence }) => sentence).join()).toContain('the type face “of the browser”')
  expect(facts.findings.map(({ sentence }) => sentence).join()).toContain('own animation')
  const source = await openSource(
    { ...spec, id: 'a', interpretation: { ...spec.interpretation, layer: '128x96' } },
    host
  )
  const frame = await source.frame(0)
  await source.close()
  expect([frame.width, frame.height, frame.depth]).toEqual([128, 96, 16])
  expect([...frame.samples.subarray(0, 4)]).toEqual([65535, 65535, 65535, 39321])
  expect([...frame.samples.subarray(4 * 100, 4 * 100 + 4)]).toEqual([0, 0, 0, 0])
})

describe('hostile drawings end in one clear error, and nothing is fetched or run', () => {
  test.each([
    ['entities', '<!DOCTYPE svg [<!ENTITY a "b">]><svg/>', /entities/],
    ['endless depth', svg('<g>'.repeat(300) + '</g>'.repeat(300)), /deeper|nested/],
    ['a size beyond all', svg('', 'width="900000" height="900000"'), /cannot be taken/],
    ['a file that is cut short', '<svg width="3"', /XML|SVG/],
    ['another root', '<html><svg/></html>', /not an SVG/]
  ])('%s', (_, text, wanted) => {
    expect(() => readDrawing(text, 'a.svg').at(8, 8)).toThrow(wanted)
  })

  test('uses of each other end', () => {
    expect(() => drawn(`<g id="a"><use href="#b"/></g><g id="b">${'<use href="#a"/>'.repeat(5)}</g>`)).toThrow(
      /more than/
    )
  })

  test('patterns within patterns, and clips of endless parts, end in words', () => {
    const cells = (paint: string): string => `<rect width="2" height="2" fill="url(#${paint})"/>`.repeat(60)
    const tile = (id: string, paint: string): string =>
      `<pattern id="${id}" width="1" height="1">${cells(paint)}</pattern>`
    const nested = ['a', 'b', 'c', 'd', 'e'].map((id, n, all) => tile(id, all[n + 1] ?? 'a')).join('')
    expect(() => drawn(`${nested}${cells('a')}`)).toThrow(/more than can be taken/)
    const parts = `<clipPath id="k">${'<rect width="64" height="48" clip-path="url(#l)"/>'.repeat(20_000)}</clipPath>`
    const large = svg(`<clipPath id="l"/>${parts}<rect width="64" height="48" clip-path="url(#k)"/>`)
    expect(() => readDrawing(large, 'a.svg').at(800, 600)).toThrow(/cuts, fades or tiles more than/)
  })

  test('small files that ask for much memory or time end in words', () => {
    const deep = `${'<g opacity=".9">'.repeat(100)}<rect width="64" height="48"/>${'</g>'.repeat(100)}`
    expect(() => readDrawing(svg(deep), 'a.svg').at(1920, 1080)).toThrow(/cuts, fades or tiles more than/)
    const parts = `<filter id="f">${'<feFlood result="a"/>'.repeat(900)}</filter>`
    const filtered = svg(`${parts}<rect width="64" height="48" filter="url(#f)"/>`)
    expect(() => readDrawing(filtered, 'a.svg').at(1920, 1080)).toThrow(/filters, cuts/)
    const gradient = '<linearGradient id="g"><stop/><stop offset="1" stop-color="#fff"/></linearGradient>'
    const fills = svg(gradient + '<rect width="64" height="48" fill="url(#g)"/>'.repeat(400))
    expect(() => readDrawing(fills, 'a.svg').at(1920, 1080)).toThrow(/paints more than/)
  }, 240_000)

  test('long texts of styles, transforms and comments are read in one go', () => {
    const long = (part: string): string => part.repeat(400_000 / part.length)
    for (const text of ['a', 'a(', '(', 'a '])
      expect(drawn(`<rect width="9" height="9" transform="${long(text)}"/>`).at(4, 4)).toEqual([0, 0, 0, 1])
    for (const text of ['a', '/*', '/*/', '{', '}', 'a,'])
      expect(drawn(`<style>${long(text)}</style><rect width="9" height="9"/>`).at(4, 4)).toEqual([0, 0, 0, 1])
    expect(looksLikeSvg(`${long('<!---->')}<x>`)).toBe(false)
    const many = Array.from({ length: 20_000 }, (_, n) => `.a${n}{fill:red}`).join('')
    const shapes = Array.from({ length: 5000 }, (_, n) => `<rect class="a${n}" width="9" height="9"/>`).join('')
    expect(drawn(`<style>${many}</style>${shapes}`).at(4, 4)).toEqual([1, 0, 0, 1])
  })

  test('a group that fades takes no more than its own box, and is the same for it', () => {
    const inside =
      '<path d="M8 8C30 0 40 40 50 30" fill="#c33" stroke="#112" stroke-width="3"/><circle cx="9" cy="40" r="3"/>'
    const turned = '<g transform="rotate(12 30 20) scale(.9)">'
    const whole = drawn(`<g opacity=".5"><g><rect x="-9" y="-9" width="1" height="1"/></g>${turned}${inside}</g></g>`)
    const boxed = drawn(`${turned}<g opacity=".5">${inside}</g></g>`)
    const anywhere = drawn(`${turned}<g opacity=".5">${inside}<svg width="0" height="0"/></g></g>`)
    for (let y = 0; y < 48; y++)
      for (let x = 0; x < 64; x++) {
        expect(boxed.at(x, y)).toEqual(anywhere.at(x, y))
        expect(boxed.at(x, y)).toEqual(whole.at(x, y))
      }
  })

  test('what is measured by lettering, and circles off their centre, is told', () => {
    const leftOut = (inside: string): string => readDrawing(svg(inside), 'a.svg').leftOut.join()
    expect(leftOut('<rect width="2em" height="1em"/>')).toBe('')
    expect(leftOut('<g font-size="40"><rect width="2em" height="1em"/></g>')).toContain('lengths in em')
    expect(leftOut('<g font-size="40"><rect width="2" height="1"/></g>')).toBe('')
    const gradient = (more: string): string => `<radialGradient id="g" ${more}><stop/></radialGradient>`
    expect(leftOut(gradient('fr="20%"'))).toBe('')
    expect(leftOut(gradient('fr="20%" fx="30%"'))).toContain('off its centre')
  })

  test('links outside and programs are named', () => {
    const { leftOut } = readDrawing(svg('<image href="http://host.invalid/a.png"/><script>1</script>'), 'a.svg')
    expect(leftOut.join()).toMatch(/not fetched/)
    expect(leftOut.join()).toMatch(/never runs/)
  })

  test('lettering, markers and pictures damaged at random', async () => {
    const whole = bytes(
      svg(
        (
          '<text x="3 9" dy="1"><tspan font-size="20">A&#233;</tspan> b</text><marker id="m" ' +
          'orient="auto"><rect width="3" height="3"/></marker><path d="M1 1L9 9A3 3 0 0 0 20 20Z" ' +
          'marker-mid="url(#m)"/><image width="9" height="9" ' +
          `href="data:image/png;base64,${toBase64(encodePng(host, noise({ width: 4, height: 4, depth: 8 })))}"/>`
        ).repeat(3)
      )
    )
    for (let n = 0; n < 200; n++)
      await survives(async () => {
        const { found } = await takeIn([bytesFile('a.svg', damage(whole, n))], host)
        if (found[0]) await (await openSource({ ...found[0].spec, id: 'a' }, host)).frame(0)
      })
  })

  test('more lettering than can be taken, a drawing that marks itself, and a picture of no size end in words', async () => {
    const many = svg(`<text>${'a'.repeat(20_001)}</text>`)
    await expect(readDrawing(many, 'a.svg').prepared(host)).rejects.toThrow('more than 20000 letters')
    const itself = svg(
      '<marker id="m"><path d="M0 0H3V3" marker-end="url(#m)" marker-mid="url(#n)"/></marker><marker ' +
        'id="n"><path d="M0 0H3V3" marker-mid="url(#m)"/></marker><path d="M0 0H9V9H3" marker-mid="url(#m)"/>'
    )
    expect(() => readDrawing(itself, 'a.svg').at(8, 8)).not.toThrow()
    const marks = svg(
      `<marker id="m"><g>${'<circle r="1"/>'.repeat(400)}</g></marker><path d="M0 0${'h1v1'.repeat(4000)}" ` +
        'marker-mid="url(#m)"/>'
    )
    expect(() => readDrawing(marks, 'a.svg').at(8, 8)).toThrow('more than can be taken')
    const corners = svg(
      `<marker id="m"><circle r="1"/></marker><path d="M0 0${'h1v1'.repeat(20_000)}" style="marker:url(#m)"/>`
    )
    expect(() => readDrawing(corners, 'a.svg').at(8, 8)).toThrow('more corners')
    const empty = svg('<image href="data:image/png;base64,AAAA" width="4" height="4"/>')
    const { leftOut } = await readDrawing(empty, 'a.svg').prepared(host)
    expect(leftOut.join()).toContain('a picture within it')
  })

  test('damaged at random', async () => {
    const whole = bytes(svg('<g transform="rotate(3)"><path d="M1 1C2 3 4 5 6 7z" style="fill:red"/></g>'.repeat(5)))
    for (let n = 0; n < 200; n++) await survives(() => takeIn([bytesFile('a.svg', damage(whole, n))], host))
  })

  test('what only holds such an element is none', () => {
    expect(looksLikeSvg('<html><body><svg></svg>')).toBe(false)
    expect(looksLikeSvg('{"svg": 1}')).toBe(false)
  })
})
