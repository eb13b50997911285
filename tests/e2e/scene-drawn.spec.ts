/** Lines, outlines, mattes, modes, copies and paths of scenes as a browser draws the same. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { Page } from '@playwright/test'
import sharp from 'sharp'
import { lettered } from '../../core/draw/scene/elements/lettering'
import type { PathLook } from '../../core/draw/scene/elements/path/look'
import { figure } from '../../core/draw/scene/elements/shape'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { SceneRenderer } from '../../core/draw/scene/render'
import type { Element } from '../../core/draw/scene/scene'
import type { Blend, Matte, Stroke } from '../../core/draw/scene/values'
import { familyOf, FACES, filesOfFace } from '../../core/draw/type/faces'
import { testHost } from '../unit/support'
import { expect, test } from './test'

const host = await testHost()
const SIZE = { width: 320, height: 180, rate: [25, 1] as [number, number], seconds: 1 }
const [W, H] = [SIZE.width, SIZE.height]

/** A scene at one frame, and the same in the words of SVG. */
interface Case {
  name: string
  elements: Element[]
  svg: string
  /** The mean of what all inked pixels may differ by, in codes of 8 bits; edges are drawn coarser there. */
  mean?: number
}

const element = (id: string, look: Element['look'], more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, look, SIZE),
  ...more
})

type Spot = readonly [x: number, y: number, before?: [number, number], after?: [number, number]]
const pathOf = (spots: readonly Spot[], more: Partial<PathLook> = {}): PathLook => ({
  kind: 'path',
  points: spots.map(([x, y, before, after]) => ({ x, y, before: before ?? null, after: after ?? null })),
  closed: false,
  fill: null,
  stroke: null,
  rider: 'none',
  riderSize: 10,
  ...more
})
const NONE: [number, number] = [0, 0]
/** The same line in the words of SVG, about the middle. */
function dOf(spots: readonly Spot[], closed = false): string {
  const all = closed ? [...spots, spots[0]!] : spots
  const parts = all.slice(1).map(([x, y, before], n) => {
    const [px, py, , after] = all[n]!
    if (!after && !before) return `L${x} ${y}`
    const [[ax, ay], [bx, by]] = [after ?? NONE, before ?? NONE]
    return `C${px + ax} ${py + ay} ${x + bx} ${y + by} ${x} ${y}`
  })
  return `M${spots[0]![0]} ${spots[0]![1]}${parts.join('')}${closed ? 'Z' : ''}`
}

const ZIGZAG: readonly Spot[] = [
  [-120, 50],
  [-60, -55],
  [-25, 40],
  [20, -50],
  [45, 55],
  [120, -40]
]
const LOOP: readonly Spot[] = [
  [-120, 40, undefined, [260, -160]],
  [120, 40, [-260, -160]]
]
const BOW: readonly Spot[] = [
  [-100, -60],
  [100, 60],
  [100, -60],
  [-100, 60]
]
const PENTAGRAM: readonly Spot[] = Array.from({ length: 5 }, (_, n) => {
  const at = (n * 4 * Math.PI) / 5
  return [75 * Math.sin(at), -75 * Math.cos(at)] as const
})

const CAPS = { round: 'round', flat: 'butt', square: 'square' } as const
const JOINS = { round: 'round', pointed: 'miter', bevelled: 'bevel' } as const

/** A line along spots, in both words. */
function lineCase(
  name: string,
  spots: readonly Spot[],
  stroke: Stroke,
  more: Partial<Element> = {},
  closed = false
): Case {
  const { width, cap = 'round', join = 'round', pointLimit = 4, dashes, dashOffset = 0, colour } = stroke
  const style = [
    `fill:none;stroke:${colour};stroke-width:${width};stroke-linecap:${CAPS[cap]};stroke-linejoin:${JOINS[join]}`,
    `stroke-miterlimit:${pointLimit}`,
    ...(dashes ? [`stroke-dasharray:${dashes.join(' ')};stroke-dashoffset:${-dashOffset}`] : [])
  ].join(';')
  const { wide = 1, tall = 1, rotation = 0 } = more
  const at = `translate(${W / 2} ${H / 2}) rotate(${rotation}) scale(${wide} ${tall})`
  return {
    name,
    elements: [element('line', pathOf(spots, { stroke, closed }), more)],
    svg: `<path transform="${at}" d="${dOf(spots, closed)}" style="${style}"/>`
  }
}

const ink = { colour: '#e2b242' }
const lines: Case[] = [
  ...(['round', 'flat', 'square'] as const).flatMap(cap =>
    (['round', 'pointed', 'bevelled'] as const).map(join =>
      lineCase(`${cap} ends, ${join} corners`, ZIGZAG, { ...ink, width: 14, cap, join })
    )
  ),
  lineCase('points beyond their limit', ZIGZAG, { ...ink, width: 14, join: 'pointed', pointLimit: 1.6 }),
  lineCase('points as far as they reach', ZIGZAG, { ...ink, width: 14, join: 'pointed', pointLimit: 40 }),
  ...(['round', 'flat', 'square'] as const).map(cap =>
    lineCase(`dashes with ${cap} ends`, ZIGZAG, { ...ink, width: 8, cap, dashes: [30, 17], dashOffset: 7 })
  ),
  lineCase('dashes over a curve', LOOP, { ...ink, width: 9, cap: 'flat', dashes: [12, 7] }),
  lineCase('dashes round a closed line', PENTAGRAM, { ...ink, width: 5, cap: 'flat', dashes: [20, 9] }, {}, true),
  lineCase('a curve that crosses itself', LOOP, { ...ink, width: 26 }),
  lineCase('a star of crossing lines', PENTAGRAM, { ...ink, width: 12, join: 'pointed' }, {}, true),
  // the browser draws what is thinner than a pixel as one that is fainter, and coarser
  { ...lineCase('a hair', LOOP, { ...ink, width: 0.8 }), mean: 24 },
  lineCase('stretched', ZIGZAG, { ...ink, width: 14, join: 'pointed' }, { wide: 0.6, tall: 1.5 }),
  lineCase(
    'stretched and turned, dashed',
    LOOP,
    { ...ink, width: 12, dashes: [24, 20] },
    { wide: 1.1, tall: 0.5, rotation: 20 }
  )
]

const fillCase = (name: string, spots: readonly Spot[]): Case => ({
  name,
  elements: [element('area', pathOf(spots, { fill: '#4a7c34', closed: true }))],
  svg: `<path transform="translate(${W / 2} ${H / 2})" d="${dOf(spots, true)}" fill="#4a7c34"/>`
})
const fills: Case[] = [
  fillCase('a bow tie', BOW),
  fillCase('a pentagram', PENTAGRAM),
  fillCase('a crossing curve', LOOP),
  fillCase('a zigzag closed over itself', ZIGZAG)
]

const box = (id: string, [x, y]: readonly [number, number], fill: string, more: Partial<Element> = {}): Element =>
  element(id, figure('rectangle', 160, 90, { fill }), { x, y, ...more })
const rect = (x: number, y: number, fill: string, style = ''): string =>
  `<rect x="${x - 80}" y="${y - 45}" width="160" height="90" fill="${fill}" style="${style}"/>`

const modes: Case[] = (['screen', 'multiply', 'overlay', 'lighten', 'darken'] as Blend[]).flatMap(blend =>
  [1, 0.45].map(opacity => ({
    name: `${blend}, ${opacity}`,
    elements: [
      box('over', [190, 100], '#c06a30', { blend, opacity: 0.8 }),
      box('under', [130, 80], '#3f7fb0', { opacity })
    ],
    svg:
      `<g style="isolation:isolate">${rect(130, 80, '#3f7fb0', `fill-opacity:${opacity}`)}` +
      `${rect(190, 100, '#c06a30', `mix-blend-mode:${blend};opacity:0.8`)}</g>`,
    mean: 1
  }))
)

// where both are solid and no sum is beyond 1, the browser's sum is the same
modes.push({
  name: 'add',
  elements: [box('over', [190, 100], '#405030', { blend: 'add', opacity: 0.8 }), box('under', [130, 80], '#3f4060')],
  svg:
    `<g style="isolation:isolate">${rect(130, 80, '#3f4060')}` +
    `${rect(190, 100, '#405030', 'mix-blend-mode:plus-lighter;opacity:0.8')}</g>`,
  mean: 1
})

const star = figure('star', 150, 150, { points: 5, inner: 0.5, fill: '#ffffff' })
const starD = (() => {
  const points = Array.from({ length: 10 }, (_, n) => {
    const [r, at] = [n % 2 ? 37.5 : 75, (n * Math.PI) / 5]
    return `${W / 2 + r * Math.sin(at)} ${H / 2 - r * Math.cos(at)}`
  })
  return `M${points.join('L')}Z`
})()
const mattes: Case[] = (
  [
    ['where it is', 'alpha', `<path d="${starD}" fill="#fff" fill-opacity="0.7"/>`, 0],
    [
      'where it is not',
      'luminance',
      `<rect width="${W}" height="${H}" fill="#fff"/><path d="${starD}" fill="#000" fill-opacity="0.7"/>`,
      0
    ],
    ['where it is bright', 'luminance', `<path d="${starD}" fill="#fff" fill-opacity="0.7"/>`, 0],
    ['where it is', 'alpha', `<path d="${starD}" fill="#fff" fill-opacity="0.7" filter="url(#b)"/>`, 20]
  ] as [Matte['takes'], string, string, number][]
).map(([takes, type, mask, soft]) => ({
  name: `${takes}, softness ${soft}`,
  elements: [
    element('bar', figure('rectangle', 300, 110, { fill: '#c06a30' }), { matte: { by: 'star', takes, soft } }),
    element('star', { ...star, fillOpacity: 0.7 })
  ],
  // a bell of variance r (r + 1) for softness 2 r
  svg:
    `<filter id="b" color-interpolation-filters="sRGB"><feGaussianBlur stdDeviation="${Math.sqrt(110)}"/></filter>` +
    `<mask id="m" style="mask-type:${type}" maskUnits="userSpaceOnUse" x="0" y="0" width="${W}" height="${H}">${mask}</mask>` +
    `<g mask="url(#m)"><rect x="10" y="35" width="300" height="110" fill="#c06a30"/></g>`,
  mean: soft ? 2.5 : 1.5
}))

const repeat = { count: 7, x: 8, y: 2, rotation: 24, scale: 0.93, opacity: 0.85, later: 0 }
const copies: Case = {
  name: 'a group drawn again',
  elements: [
    element('group', { kind: 'group', repeat }, { x: 150, y: 85 }),
    element('part', figure('rectangle', 70, 16, { fill: '#4a7c34' }), { inside: 'group', x: 50, y: 0 })
  ],
  svg: `<g transform="translate(150 85)">${Array.from({ length: repeat.count }, (_, n) => n)
    .reverse()
    .map(n => {
      const step = `translate(8 2) rotate(24) scale(0.93)`
      const at = Array.from({ length: n }, () => step).join(' ')
      return `<g transform="${at}" opacity="${0.85 ** n}"><rect x="15" y="-8" width="70" height="16" fill="#4a7c34"/></g>`
    })
    .join('')}</g>`
}

/** What a browser draws, premultiplied, in codes of 8 bits. */
async function drawnBy(page: Page, body: string, style = ''): Promise<Float64Array> {
  await page.setContent(
    `<meta charset="utf-8"><style>${style}body{margin:0}svg{display:block}</style>` +
      `<svg width="${W}" height="${H}" viewBox="0 0 ${W} ${H}">${body}</svg>`
  )
  await page.evaluate(() => Promise.all([...document.fonts].map(each => each.load())))
  const shot = await page.screenshot({ omitBackground: true, clip: { x: 0, y: 0, width: W, height: H } })
  const straight = await sharp(shot).ensureAlpha().raw().toBuffer()
  return Float64Array.from(straight, (code, i) => (i % 4 === 3 ? code : (code * straight[i - (i % 4) + 3]!) / 255))
}

/** What a scene is at its first frame, in the same way. */
async function drawnHere(elements: Element[]): Promise<Float64Array> {
  const renderer = await SceneRenderer.of({ ...emptyScene('drawn', SIZE), elements }, host)
  expect(renderer.told).toEqual([])
  const { samples } = renderer.frame(0)
  return Float64Array.from(samples, (code, i) =>
    i % 4 === 3 ? code / 257 : (code / 257) * (samples[i - (i % 4) + 3]! / 65535)
  )
}

/** The mean and the most that inked pixels differ by, and the share of them that differ by much. */
function apart(one: Float64Array, other: Float64Array): { mean: number; far: number } {
  let [sum, count, far] = [0, 0, 0]
  for (let i = 0; i < one.length; i += 4) {
    if (one[i + 3] === 0 && other[i + 3] === 0) continue
    const most = Math.max(...[0, 1, 2, 3].map(c => Math.abs(one[i + c]! - other[i + c]!)))
    sum += most
    count++
    if (most > 64) far++
  }
  expect(count).toBeGreaterThan(300)
  return { mean: sum / count, far: far / count }
}

for (const { name, elements, svg, mean = 6 } of [...lines, ...fills, ...modes, ...mattes, copies])
  test(`${name}: drawn as the browser draws it`, async ({ page }) => {
    const found = apart(await drawnHere(elements), await drawnBy(page, svg))
    expect.soft(found.mean).toBeLessThan(mean)
    expect.soft(found.far).toBeLessThan(0.01)
  })

test('letters stand on a path where the browser puts them, and so does what moves along it', async ({ page }) => {
  const [face] = FACES
  const require = createRequire(import.meta.url)
  const rules = filesOfFace(face).map((file, n) => {
    const data = readFileSync(require.resolve(`@fontsource/${familyOf(file)}/files/${file}`)).toString('base64')
    return `@font-face{font-family:F${n};src:url(data:font/woff;base64,${data})}`
  })
  const families = rules.map((_, n) => `F${n}`).join(',')
  const seen = await drawnBy(
    page,
    `<path id="p" fill="none" d="${dOf(LOOP)}" transform="translate(${W / 2} ${H / 2})"/>` +
      `<text style="font:26px ${families};fill:#fff;text-rendering:geometricPrecision">` +
      `<textPath href="#p" startOffset="40">Palm House at night</textPath></text>`,
    rules.join('')
  )
  const words = lettered('Palm House at night', 26, {
    face: face.id,
    colour: '#ffffff',
    onto: { path: 'way', begins: 40 }
  })
  const way = element('way', pathOf(LOOP), { hidden: true })
  const here = await drawnHere([element('words', words), way])
  let [off, sum] = [0, 0]
  for (let i = 3; i < here.length; i += 4) {
    sum += seen[i]!
    off += Math.abs(seen[i]! - here[i]!)
  }
  expect(sum).toBeGreaterThan(255 * 500)
  // small letters are mostly edge, and edges are drawn coarser there; a letter a pixel elsewhere is more than this
  expect(off / sum).toBeLessThan(0.16)

  const spots = await page.evaluate(() => {
    const path = document.querySelector('path')!
    return [0, 0.2, 0.5, 0.85, 1].map(share => {
      const { x, y } = path.getPointAtLength(share * path.getTotalLength())
      return [x, y]
    })
  })
  for (const [n, share] of [0, 0.2, 0.5, 0.85, 1].entries()) {
    const tracks: Element['tracks'] = [{ of: 'along', keys: [{ at: 0, value: share, ease: 'linear' }] }]
    const rider = element('rider', figure('ellipse', 4, 4), { rides: { path: 'way', turned: true }, tracks })
    const renderer = await SceneRenderer.of({ ...emptyScene('rides', SIZE), elements: [rider, way] }, host)
    const [left, top, right, bottom] = renderer.boxes(0).rider!
    expect((left + right) / 2 - W / 2).toBeCloseTo(spots[n]![0]!, 1)
    expect((top + bottom) / 2 - H / 2).toBeCloseTo(spots[n]![1]!, 1)
  }
})
