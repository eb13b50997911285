/** Lettering as a browser sets it with the same files: how wide it is, and where its ink lies. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import sharp from 'sharp'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { SceneRenderer } from '../../core/draw/scene/render'
import { familyOf, FACES, filesBeside, filesOfFace } from '../../core/draw/type/faces'
import { testHost } from '../unit/support'
import { expect, test } from './test'

const host = await testHost()
const SIZE = { width: 900, height: 140, rate: [25, 1] as [number, number], seconds: 1 }

interface Sample {
  text: string
  face?: (typeof FACES)[number]['id']
  rtl?: boolean
  tracking?: number
}

const SAMPLES: readonly Sample[] = [
  { text: 'AVAVAV To Ty' },
  { text: 'Waffle office, “fjord” & Ltd.', face: 'sans-bold' },
  { text: 'fi – if it is apart', tracking: 80 },
  { text: 'e\u0301a\u0308 Łódź čeština ŐŰ' },
  { text: 'Сад, Теплица ГУЛ', face: 'sans-half-bold' },
  { text: 'Λάμδα Ύδωρ ΤΟΥ' },
  { text: 'מרכז הצמחים', rtl: true },
  { text: 'שלום (Anna) 123!', rtl: true, face: 'sans-bold' },
  { text: 'Palm House, בית הדקל 7' },
  { text: 'مرحبا بالعالم', rtl: true },
  { text: 'لا إله، 2026 ٣٤', rtl: true, face: 'sans-bold' },
  { text: 'नमस्ते क्षत्रिय' },
  { text: 'สวัสดีที่นี่' },
  { text: '温室の花ガラス' },
  { text: 'Type 0123 {x}', face: 'mono' }
]

for (const { text, face = 'sans', rtl = false, tracking = 0 } of SAMPLES)
  test(`“${text}” in ${face} stands as in the browser`, async ({ page }) => {
    const shipped = FACES.find(({ id }) => id === face)!
    const files = [...filesOfFace(shipped), ...(await filesBeside(shipped, [...text])).files]
    const require = createRequire(import.meta.url)
    const rules = files.map((file, n) => {
      const data = readFileSync(require.resolve(`@fontsource/${familyOf(file)}/files/${file}`)).toString('base64')
      return `@font-face{font-family:F${n};src:url(data:font/woff;base64,${data})}`
    })
    const style = [
      `font:64px ${files.map((_, n) => `F${n}`).join(',')}`,
      `fill:#fff;text-rendering:geometricPrecision;letter-spacing:${(64 * tracking) / 1000}px`,
      rtl ? 'direction:rtl;text-anchor:end' : ''
    ].join(';')
    await page.setContent(
      `<meta charset="utf-8"><style>${rules.join('')}body{margin:0}svg{display:block}</style>
      <svg width="900" height="140"><text x="40" y="90" style="${style}">${text.replace('&', '&amp;')}</text></svg>`
    )
    const width = await page.evaluate(async () => {
      await Promise.all([...document.fonts].map(each => each.load()))
      return document.querySelector('text')!.getComputedTextLength()
    })
    const scene = emptyScene('test', SIZE)
    const look = lettered(text, 64, { face, colour: '#ffffff', tracking })
    scene.elements = [{ ...newElement('one', 'One', look, SIZE), x: 40, y: 90 }]
    scene.elements[0]!.entrance.kind = 'none'
    scene.elements[0]!.exit.kind = 'none'
    const renderer = await SceneRenderer.of(scene, host)
    expect(renderer.missing).toEqual([])
    const [left, , right] = renderer.boxes(0).one!
    const after = (64 * tracking) / 1000
    expect.soft(Math.abs(right - left + after - width), `${right - left + after} and ${width}`).toBeLessThan(0.05)
    const shot = await page.screenshot({ omitBackground: true, clip: { x: 0, y: 0, width: 900, height: 140 } })
    const seen = await sharp(shot).ensureAlpha().raw().toBuffer()
    const { samples } = renderer.frame(5)
    let [off, ink] = [0, 0]
    for (let i = 3; i < seen.length; i += 4) {
      ink += seen[i]!
      off += Math.abs(seen[i]! - samples[i]! / 257)
    }
    expect(ink).toBeGreaterThan(255 * 1000)
    // edges are drawn coarser there; a letter that stands a pixel elsewhere is more than this
    expect.soft(off / ink).toBeLessThan(0.06)
  })
