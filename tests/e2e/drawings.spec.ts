/** SVG files as a browser draws them: Pour's drawing is the same, or it tells what it leaves out. */
import { expect, test } from './test'
import { readFileSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { root, testHost } from '../unit/support'
import { readDrawing } from '../../core/draw/vector/svg/drawing'
import { drawings, svgOf } from '../material/drawings'

const [WIDTH, HEIGHT] = [120, 90]

const host = await testHost()
const faceOf = (file: string, weight: number, more = ''): string => {
  const data = readFileSync(path.join(root, 'node_modules/@fontsource', file)).toString('base64')
  return `@font-face{font-family:"IBM Plex Sans";font-weight:${weight};src:url(data:font/woff;base64,${data})${more}}`
}
const BESIDE = { hebrew: 'U+0590-05FF', arabic: 'U+0600-06FF', devanagari: 'U+0900-097F', thai: 'U+0E00-0E7F' }
const faces = [
  ...[400, 700].map(weight =>
    faceOf(`ibm-plex-sans/files/ibm-plex-sans-latin-${weight}-normal.woff`, weight, ';unicode-range:U+0-2FF')
  ),
  faceOf('ibm-plex-sans/files/ibm-plex-sans-cyrillic-400-normal.woff', 400, ';unicode-range:U+0400-04FF'),
  ...Object.entries(BESIDE).map(([name, range]) => {
    const family = `ibm-plex-sans-${name}`
    return faceOf(`${family}/files/${family}-${name}-400-normal.woff`, 400, `;unicode-range:${range}`)
  })
].join('')

test('drawings are those of the browser, or what is left out is told', async ({ page }) => {
  expect(drawings.length).toBeGreaterThanOrEqual(60)
  const wrong: string[] = []
  for (const drawing of drawings) {
    const text = svgOf(drawing)
    const { leftOut, at } = await readDrawing(text, 'drawing.svg').prepared(host)
    if (drawing.told) {
      if (!leftOut.some(words => drawing.told!.test(words))) wrong.push(`${drawing.name}: told “${leftOut.join('; ')}”`)
      continue
    }
    if (leftOut.length) wrong.push(`${drawing.name}: left out ${leftOut.join('; ')}`)
    await page.setContent(`<style>${faces}body{margin:0}svg{display:block}</style>${text}`)
    await page.evaluate(async () => {
      await Promise.all([...document.fonts].map(face => face.load()))
      const pictures = [...document.querySelectorAll('image')] as unknown as { decode(): Promise<void> }[]
      await Promise.all(pictures.map(each => each.decode().catch(() => undefined)))
    })
    const shot = await page.screenshot({ omitBackground: true, clip: { x: 0, y: 0, width: WIDTH, height: HEIGHT } })
    const seen = await sharp(shot).ensureAlpha().raw().toBuffer()
    const { pixels } = at(WIDTH, HEIGHT)
    let sum = 0
    let far = 0
    for (let i = 0; i < pixels.length; i += 4) {
      const a = seen[i + 3]! / 255
      let worst = 0
      for (let c = 0; c < 4; c++) {
        const off = Math.abs(255 * pixels[i + c]! - (c === 3 ? seen[i + 3]! : seen[i + c]! * a))
        sum += off
        worst = Math.max(worst, off)
      }
      if (worst > 40) far++
    }
    const [meanOff, share] = [sum / pixels.length, far / (WIDTH * HEIGHT)]
    if (meanOff > 1.5 || share > 0.01)
      wrong.push(
        `${drawing.name}: ${meanOff.toFixed(2)} codes off on average, ${(100 * share).toFixed(2)} % of pixels far off`
      )
  }
  expect(wrong).toEqual([])
})
