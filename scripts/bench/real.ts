/**
 * Five clips of the kinds that technicians have, at 1080p and 8 bits, drawn by a library that is not Pour's and stored
 * as straight PNG: a strap with lettering, a card that fades, smoke, hair, and a shape swiped past with motion blur.
 */
import { Buffer } from 'node:buffer'
import sharp from 'sharp'

const [WIDTH, HEIGHT] = [1920, 1080]

/** The same numbers on every machine, in [0, 1). */
function sequence(seed: number): () => number {
  let state = seed | 0
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    return (state >>> 8) / 2 ** 24
  }
}

const svg = (inner: string): Buffer =>
  Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${HEIGHT}">${inner}</svg>`)

const words = (x: number, y: number, size: number, text: string, fill: string): string =>
  `<text x="${x}" y="${y}" font-family="sans-serif" font-weight="bold" font-size="${size}" fill="${fill}">${text}</text>`

function strap(t: number): string {
  const wide = 1100 * Math.min(1, t * 3)
  return `<rect x="120" y="800" width="${wide}" height="170" rx="14" fill="#1f5a45" fill-opacity="0.6"/>
    <rect x="120" y="800" width="16" height="170" fill="#d88b5c"/>
    <g opacity="${Math.min(1, t * 4)}">${words(170, 880, 64, 'ADA FERNBROOK', '#ffffff')}
    ${words(170, 940, 36, 'Keeper of the Palm House', '#f2efe4')}</g>`
}

function card(t: number): string {
  return `<g opacity="${Math.sin(Math.PI * (0.1 + 0.8 * t)).toFixed(4)}">
    <rect x="420" y="240" width="1080" height="600" rx="40" fill="#f6f3ea"/>
    <rect x="420" y="240" width="1080" height="140" rx="40" fill="#26604a"/>
    ${words(500, 340, 72, 'Opening hours', '#ffffff')}
    ${words(500, 520, 56, 'Palm House  9 to 18', '#1d1d1d')}${words(500, 620, 56, 'Moth House  20 to 24', '#1d1d1d')}</g>`
}

function hair(t: number): string {
  const next = sequence(7)
  const lines = Array.from({ length: 900 }, (_, i) => {
    const [x, sway] = [560 + 800 * next(), 60 * Math.sin(6 * t + i * 0.01)]
    const tip = x + (next() - 0.5) * 420 + sway
    return `<path d="M${x.toFixed(1)} 980 Q${(x + sway).toFixed(1)} 600 ${tip.toFixed(1)} ${(140 + 500 * next()).toFixed(1)}" stroke="hsl(${20 + 20 * next()} 45% ${20 + 30 * next()}%)" stroke-width="${(0.5 + 1.4 * next()).toFixed(2)}" fill="none"/>`
  })
  return lines.join('')
}

/** One colour under an alpha of clouds: five octaves of smoothed noise that rise. */
function smoke(t: number): Buffer {
  const pixels = Buffer.alloc(WIDTH * HEIGHT * 4)
  const next = sequence(3)
  const grid = Float32Array.from({ length: 256 * 256 }, next)
  const at = (x: number, y: number): number => {
    const [xi, yi] = [Math.floor(x), Math.floor(y)]
    const [fx, fy] = [x - xi, y - yi]
    const [u, v] = [fx * fx * (3 - 2 * fx), fy * fy * (3 - 2 * fy)]
    const g = (i: number, j: number): number => grid[((j & 255) << 8) | (i & 255)]!
    return (g(xi, yi) * (1 - u) + g(xi + 1, yi) * u) * (1 - v) + (g(xi, yi + 1) * (1 - u) + g(xi + 1, yi + 1) * u) * v
  }
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      let sum = 0
      for (let o = 0, size = 1 / 180, weight = 0.5; o < 5; o++, size *= 2, weight /= 2)
        sum += weight * at(x * size, y * size + t * 3 * (o + 1))
      const rim = Math.max(0, 1 - Math.hypot((x - 960) / 700, (y - 600) / 480))
      const alpha = Math.max(0, Math.min(1, (sum - 0.32) * 2.2 * Math.min(1, rim * 2)))
      const p = 4 * (WIDTH * y + x)
      if (alpha > 0) pixels.set([214, 219, 224, Math.round(255 * alpha)], p)
    }
  return pixels
}

/** Each clip as its frames in PNG, straight. */
export const realClips: readonly { name: string; frame(t: number): Promise<Buffer> }[] = [
  {
    name: 'strap with lettering',
    frame: t =>
      sharp(svg(strap(t)))
        .png()
        .toBuffer()
  },
  {
    name: 'card that fades',
    frame: t =>
      sharp(svg(card(t)))
        .png()
        .toBuffer()
  },
  {
    name: 'smoke',
    frame: t =>
      sharp(smoke(t), { raw: { width: WIDTH, height: HEIGHT, channels: 4 } })
        .png()
        .toBuffer()
  },
  {
    name: 'hair',
    frame: t =>
      sharp(svg(hair(t)))
        .png()
        .toBuffer()
  },
  {
    name: 'swipe with motion blur',
    frame: async t => {
      const x = -200 + 1800 * t
      const shape = svg(
        `<g transform="translate(${x} 300) scale(1.6)"><path d="M0 150 L150 0 L300 150 L150 300 Z" fill="#c4623e"/>${words(90, 170, 60, 'GO', '#ffffff')}</g>`
      )
      // the shape laid many times along its way, each with its share, is what an open shutter gathers
      const moments = 16
      const laid = new Float32Array(WIDTH * HEIGHT * 4)
      const { data } = await sharp(shape).raw().toBuffer({ resolveWithObject: true })
      for (let m = 0; m < moments; m++) {
        const by = Math.round(m * 9)
        for (let y = 0; y < HEIGHT; y++)
          for (let at = 0; at + by < WIDTH; at++) {
            const [from, to] = [4 * (WIDTH * y + at), 4 * (WIDTH * y + at + by)]
            const alpha = data[from + 3]!
            if (alpha === 0) continue
            for (let c = 0; c < 3; c++) laid[to + c]! += (data[from + c]! * alpha) / moments
            laid[to + 3]! += alpha / moments
          }
      }
      const out = Buffer.alloc(laid.length)
      for (let p = 0; p < laid.length; p += 4) {
        const alpha = laid[p + 3]!
        if (alpha < 0.5) continue
        for (let c = 0; c < 3; c++) out[p + c] = Math.min(255, Math.round(laid[p + c]! / alpha))
        out[p + 3] = Math.round(alpha)
      }
      return sharp(out, { raw: { width: WIDTH, height: HEIGHT, channels: 4 } })
        .png()
        .toBuffer()
    }
  }
]
