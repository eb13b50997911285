/** Lettering set by the shaper: against a library that reads the same fonts by itself, and by what lines must hold. */
import fc from 'fast-check'
import { parse } from 'opentype.js'
import { describe, expect, test } from 'vitest'
import type { TypeFile } from '../../core/frame/host'
import { fitted, lineEntered, type LineEntered } from '../../core/draw/scene/elements/lettering/rows'
import { FACES, familyOf, filesBeside, filesOfFace } from '../../core/draw/type/faces'
import { fontsFor } from '../../core/draw/type/fonts'
import { linesOf } from '../../core/draw/type/outlines'
import { setLine, type Direction, type SetLetter, type SetLine } from '../../core/draw/type/set'
import { unpackedWoff } from '../../core/draw/type/sfnt'
import { testHost } from './support'

const host = await testHost()

const lettersOf = (text: string, fonts: readonly TypeFile[], more: Partial<SetLetter> = {}): SetLetter[] =>
  [...text].map(character => ({ character, fonts, size: 100, spacing: 0, features: '', style: 0, ...more }))

async function set(text: string, more: Partial<SetLetter> = {}, direction: Direction = 'auto'): Promise<SetLine> {
  return setLine(lettersOf(text, (await fontsFor(host, 'sans', text)).files, more), direction)
}

describe('against a library that reads the same files by itself', () => {
  test.each(FACES)('$label: outlines and widths of every letter', async face => {
    const [name] = filesOfFace(face) as [string]
    const sfnt = unpackedWoff(new Uint8Array(await host.font!(name)))
    const [ours, theirs] = [await host.shaper!.open(sfnt), parse(sfnt.buffer)]
    expect(ours.unitsPerEm).toBe(theirs.unitsPerEm)
    for (let code = 33; code < 255; code++) {
      const letter = String.fromCharCode(code)
      const glyph = theirs.charToGlyphIndex(letter)
      // a hyphen that is only where a line may be broken is not drawn
      if (glyph === 0 || letter === '\u00ad') continue
      const run = { from: 0, to: 1, rightToLeft: false, features: '-kern,-liga,-ccmp,-locl' }
      const [shaped] = ours.shape(letter, run)
      expect([shaped!.glyph, shaped!.advance], letter).toEqual([glyph, theirs.glyphs.get(glyph).advanceWidth])
      const [xs, ys]: [number[], number[]] = [[], []]
      for (const line of linesOf({ file: ours, glyph, x: 0, y: 0 }, ours.unitsPerEm))
        for (const [i, value] of line.entries()) (i % 2 ? ys : xs).push(value)
      const { x1, y1, x2, y2 } = theirs.glyphs.get(glyph).getPath(0, 0, theirs.unitsPerEm).getBoundingBox()
      const due = [x1, y1, x2, y2]
      if (xs.length === 0) {
        expect(due, letter).toEqual([0, 0, 0, 0])
        continue
      }
      const found = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
      // curves are followed to a fiftieth of a pixel
      for (const [n, edge] of found.entries()) expect(Math.abs(edge - due[n]!), letter).toBeLessThan(0.1)
    }
  })
})

describe('a line', () => {
  test('pairs stand nearer as the face says, and letters that it draws as one are one', async () => {
    expect((await set('AVAVAV To Ty', { size: 48 })).width).toBeCloseTo(293.52, 6)
    expect((await set('AVAVAV To Ty', { size: 48, features: '-kern' })).width).toBeCloseTo(308.4, 6)
    expect((await set('office')).clusters.map(({ from, to }) => to - from)).toEqual([1, 1, 2, 1, 1])
    expect((await set('office', { features: '-liga' })).clusters).toHaveLength(6)
    expect((await set('e\u0301')).clusters).toMatchObject([{ from: 0, to: 2, glyphs: [{}] }])
  })

  test('runs as its letters do, or as it is told', async () => {
    const order = ({ clusters }: SetLine, text: string): string =>
      clusters.map(({ from, to }) => [...text].slice(from, to).join('')).join('')
    const mixed = 'אב 12 cd'
    expect(order(await set(mixed), mixed)).toBe('cd 12 בא')
    expect(order(await set(mixed, {}, 'ltr'), mixed)).toBe('12 בא cd')
    expect((await set(mixed)).rightToLeft).toBe(true)
    expect((await set('cd אב')).rightToLeft).toBe(false)
    // brackets are mirrored: the one that opens stands at the right
    const [first] = (await set('(א)')).clusters
    expect(first!.glyphs[0]!.glyph).toBe((await set('(')).clusters[0]!.glyphs[0]!.glyph)
  })

  test('letters that join stay together where spacing is asked for, and it is said', async () => {
    const [close, spaced] = [await set('سلام'), await set('سلام', { spacing: 40 })]
    expect([close.keptJoined, spaced.keptJoined]).toEqual([false, true])
    expect(spaced.width).toBe(close.width)
    expect((await set('abc', { spacing: 40 })).width).toBeCloseTo((await set('abc')).width + 80, 9)
  })

  test('what no face has is named; what another file has is drawn from it, at the weight there is', async () => {
    expect((await set('a한b')).missing).toEqual(['한'])
    const bold = await fontsFor(host, 'sans-bold', 'Haus 温室')
    expect(bold.told).toEqual(['East Asian letters (温 室) come in the regular weight alone.'])
    expect((await fontsFor(host, 'sans', 'Haus 温室')).told).toEqual([])
    // what no file has is not said to come in any weight
    expect((await fontsFor(host, 'sans-bold', '\u{2a6d0}')).told).toEqual([])
    // a letter that is written apart from its mark is found in the file of the one that has it
    for (const text of ['ガ', 'ぽ', 'べ']) {
      const line = await set(text.normalize('NFD'))
      expect(line.missing, text).toEqual([])
      expect(line.width).toBe((await set(text)).width)
    }
    // a letter that is there with its mark is not sought apart
    const [latin] = filesOfFace(FACES[0])
    const face = { id: 'own-1', name: 'Own', data: Buffer.from(await host.font!(latin!)).toString('base64') }
    expect((await fontsFor(host, 'own-1', 'e\u0301 fern', [face])).told).toEqual([])
    expect((await fontsFor(host, 'own-1', 'Ж', [face])).told).toEqual([
      "The type face Own has no Ж; Pour's own letters it."
    ])
  })

  test('every letter is in one cluster, in reading order, and clusters stand side by side', async () => {
    const { files } = await fontsFor(host, 'sans', 'abאבسمनमसกข温Жλ한')
    const letter = fc.constantFrom(...'aefiVA (),12\u0301אבسملاनमस्तेक่กข温のЖλ한\u200d\u202e\u2067\t'.split(''))
    fc.assert(
      fc.property(fc.array(letter, { maxLength: 40 }), fc.constantFrom('auto', 'ltr', 'rtl'), (letters, direction) => {
        const { clusters, width } = setLine(lettersOf(letters.join(''), files), direction as Direction)
        const covered = clusters.flatMap(({ from, to }) => Array.from({ length: to - from }, (_, n) => from + n))
        expect(covered.sort((a, b) => a - b)).toEqual(letters.map((_, n) => n))
        let x = 0
        for (const cluster of clusters) {
          expect(cluster.x).toBeCloseTo(x, 6)
          x += cluster.advance
        }
        expect(width).toBeCloseTo(Math.max(0, x), 6)
      }),
      { numRuns: 300 }
    )
  })

  test('files that are named are there, and each knows its package', async () => {
    const text = [...'אمกन温Ω']
    for (const face of FACES)
      for (const name of [...filesOfFace(face), ...(await filesBeside(face, text)).files]) {
        expect(name.startsWith(`${familyOf(name)}-`)).toBe(true)
        expect((await host.font!(name)).byteLength).toBeGreaterThan(500)
      }
  })
})

describe('a box', async () => {
  const { files } = await fontsFor(host, 'sans', 'a')
  const { files: arabic } = await fontsFor(host, 'sans', 'سلام abc')
  test('letters that join take no room for tracking that they do not get', () => {
    const letters = lettersOf('سلام abc', arabic, { spacing: 50 })
    const line = setLine(letters)
    const { rows, fits } = fitted([lineEntered(0, letters, line)], {
      width: line.width,
      lines: 1,
      least: 1,
      clip: false
    })
    expect([rows, fits]).toEqual([[{ from: 0, to: 8 }], true])
    const less = { width: line.width - 1, lines: 1, least: 1, clip: false }
    expect(fitted([lineEntered(0, letters, line)], less).fits).toBe(false)
  })

  const entered = (text: string): LineEntered[] => {
    let from = 0
    return text.split('\n').map(line => {
      const letters = lettersOf(line, files)
      const row = lineEntered(from, letters, setLine(letters))
      from += letters.length
      return row
    })
  }
  const rowsOf = (text: string, rows: readonly { from: number; to: number }[]): string[] =>
    rows.map(({ from, to }) => [...text.replaceAll('\n', '')].slice(from, to).join(''))

  test('lines are broken where the standard allows, and where they were entered', () => {
    const text = 'The palm-house (2026) opens\nat 9'
    const { rows, share, fits } = fitted(entered(text), { width: 560, lines: 9, least: 1, clip: false })
    expect(rowsOf(text, rows)).toEqual(['The palm-', 'house ', '(2026) ', 'opens', 'at 9'])
    expect([share, fits]).toEqual([1, true])
  })

  test('lettering shrinks no further than it must, and not beyond its least', () => {
    const lines = entered('Chrysanthemum')
    const { width } = setLine(lines[0]!.letters)
    const half = fitted(lines, { width: width / 2, lines: 1, least: 0.2, clip: false })
    expect(half.share).toBeCloseTo(0.5, 5)
    expect(half.share * width).toBeLessThanOrEqual(width / 2 + 1e-6)
    expect(fitted(lines, { width, lines: 1, least: 0.2, clip: false }).share).toBe(1)
    expect(fitted(lines, { width: width / 8, lines: 1, least: 0.4, clip: false })).toMatchObject({
      ...{ share: 0.4, fits: false }
    })
  })

  test('no letter is lost, lines hold to the width unless one word is wider, and the largest size is found', () => {
    const words = fc.array(fc.constantFrom('a', 'palm', 'house', 'of', 'Fernbrook', 'glass'), { minLength: 1 })
    fc.assert(
      fc.property(words, fc.integer({ min: 120, max: 900 }), fc.integer({ min: 1, max: 5 }), (all, width, most) => {
        const text = all.join(' ')
        const lines = entered(text)
        const { rows, share, fits } = fitted(lines, { width, lines: most, least: 0.3, clip: false })
        expect(rowsOf(text, rows).join('')).toBe(text)
        const wide = (from: number, to: number): number =>
          setLine(lettersOf([...text].slice(from, to).join('').trimEnd(), files)).width
        if (fits) for (const { from, to } of rows) expect(wide(from, to) * share).toBeLessThan(width + 0.5)
        if (fits) expect(rows.length).toBeLessThanOrEqual(most)
        if (fits && share < 1) {
          const larger = fitted(lines, { width: width / (share * 1.01), lines: most, least: 1, clip: false })
          expect(larger.fits).toBe(false)
        }
      }),
      { numRuns: 100 }
    )
  })
})
