/**
 * What a file of high dynamic range says beside its codes: the display it was mastered on (SMPTE ST 2086) and how
 * bright it gets (CTA-861.3). Figures alone; no code changes by them.
 */
import { z } from 'zod'

export const LightLevels = z.object({
  /** Places (x, y) of red, green, blue and white, and the luminance of white and black in cd/m2. */
  mastering: z
    .object({
      places: z.array(z.tuple([z.number(), z.number()])).length(4),
      most: z.number(),
      least: z.number()
    })
    .nullable(),
  /** The brightest pixel, and the brightest mean of a frame, in cd/m2. */
  content: z.object({ most: z.number(), mean: z.number() }).nullable()
})
export type LightLevels = z.infer<typeof LightLevels>

type Mastering = NonNullable<LightLevels['mastering']>

const nits = (value: number): string => Number(value.toPrecision(4)).toLocaleString('en', { maximumFractionDigits: 4 })

/** "mastered on 0.005 to 1,000 cd/m², 900 at most and 180 on average". */
export function sayLevels({ mastering, content }: LightLevels): string {
  return [
    ...(mastering ? [`mastered on ${nits(mastering.least)} to ${nits(mastering.most)} cd/m²`] : []),
    ...(content ? [`${nits(content.most)} cd/m² at most and ${nits(content.mean)} in its brightest frame`] : [])
  ].join(', ')
}

/** Both, where there is any of them. */
export const levelsOf = (mastering: LightLevels['mastering'], content: LightLevels['content']): LightLevels | null =>
  mastering || content ? { mastering, content } : null

/** Units of places and of luminance in both binary forms. */
const PLACE = 50000
const LUMINANCE = 10000

/** Red, green and blue stand in another order in films: green, blue, red. */
const ORDERS = { picture: [0, 1, 2, 3], film: [1, 2, 0, 3] } as const
export type Order = keyof typeof ORDERS

/**
 * 24 bytes: places as u16, luminance as u32, big-endian; PNG's mDCV and the box of films. Null where they are damaged.
 */
export function readMastering(bytes: Uint8Array, order: Order): Mastering | null {
  if (bytes.length < 24) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const places: [number, number][] = [
    [0, 0],
    [0, 0],
    [0, 0],
    [0, 0]
  ]
  ORDERS[order].forEach((which, n) => {
    places[which] = [view.getUint16(4 * n) / PLACE, view.getUint16(4 * n + 2) / PLACE]
  })
  return { places, most: view.getUint32(16) / LUMINANCE, least: view.getUint32(20) / LUMINANCE }
}

/** A whole number that a field holds; what lies beyond it is its end. */
const within = (value: number, most: number): number => Math.max(0, Math.min(most, Math.round(value)))

/** The mastering display as its container has it: places of the primaries, and luminance, in its units and order. */
export function writeMastering({ places, most, least }: Mastering, order: Order): Uint8Array {
  const bytes = new Uint8Array(24)
  const view = new DataView(bytes.buffer)
  ORDERS[order].forEach((which, n) => {
    const [x, y] = places[which] ?? [0, 0]
    view.setUint16(4 * n, within(x * PLACE, 0xffff))
    view.setUint16(4 * n + 2, within(y * PLACE, 0xffff))
  })
  view.setUint32(16, within(most * LUMINANCE, 0xffffffff))
  view.setUint32(20, within(least * LUMINANCE, 0xffffffff))
  return bytes
}

/** 8 bytes of PNG's cLLI, in 0.0001 cd/m2; null where they are damaged. */
export function readContent(bytes: Uint8Array): LightLevels['content'] {
  if (bytes.length < 8) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  return { most: view.getUint32(0) / LUMINANCE, mean: view.getUint32(4) / LUMINANCE }
}

/** The brightest pixel and the brightest mean of a frame, in candela per square metre. */
export function writeContent({ most, mean }: NonNullable<LightLevels['content']>): Uint8Array {
  const bytes = new Uint8Array(8)
  const view = new DataView(bytes.buffer)
  view.setUint32(0, within(most * LUMINANCE, 0xffffffff))
  view.setUint32(4, within(mean * LUMINANCE, 0xffffffff))
  return bytes
}
