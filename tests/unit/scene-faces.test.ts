/** Type faces that a scene carries along: lettered as shipped ones are, refused in words where they are none. */
import { Font, Glyph, parse } from 'opentype.js'
import { readFileSync } from 'node:fs'
import path from 'node:path'
import { describe, expect, test } from 'vitest'
import { emptyScene, newElement, type SceneSize } from '../../core/draw/scene/fresh'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { bareFont } from '../../core/draw/type/font-check'
import { checkPrograms } from '../../core/draw/type/font-programs'
import { readScene } from '../../core/draw/scene/format'
import { isFontName, MOST_FONT_BYTES, ownFace, removeFace } from '../../core/draw/scene/own-faces'
import { kerningIn } from '../../core/draw/type/kerning'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene } from '../../core/draw/scene/scene'
import { damage, root, survives, testHost } from './support'

const host = await testHost()
const SIZE: SceneSize = { width: 240, height: 80, rate: [25, 1], seconds: 1 }
const file = await host.font!('ibm-plex-mono-latin-400-normal.woff').then(bytes => new Uint8Array(bytes))
const mono = ownFace({}, 'Glasshouse Mono.woff', file)

const sceneIn = (face: string, text = 'Fern & Palm', faces = [mono]): Scene => ({
  ...emptyScene('test', SIZE),
  faces,
  elements: [newElement('one', 'One', lettered(text, 24, { face, align: 'centre' }), SIZE)]
})

test('a font file of the scene letters as the same file does that ships', async () => {
  expect(mono).toMatchObject({ id: 'own-1', name: 'Glasshouse Mono' })
  const own = await SceneRenderer.of(Scene.parse(sceneIn('own-1')), host)
  const shipped = await SceneRenderer.of(sceneIn('mono'), host)
  expect(own.frame(0).samples).toEqual(shipped.frame(0).samples)
  expect(own.frame(0).samples.some(code => code > 0)).toBe(true)
  // what the file lacks is told, not drawn in another face
  const cyrillic = await SceneRenderer.of(sceneIn('own-1', 'Сад'), host)
  expect(cyrillic.missing.length).toBeGreaterThan(0)
})

test('a description that names a face it does not carry is refused; a face that is taken away leaves the usual one', () => {
  const scene = sceneIn('own-1')
  expect(() => readScene(JSON.stringify({ ...scene, faces: [] }), 'x.json')).toThrow('no type face is called "own-1"')
  removeFace(scene, 'own-1')
  expect(scene.faces).toBe(undefined)
  expect(scene.elements[0]!.look).toMatchObject({ face: 'sans' })
  expect(Scene.safeParse(scene).success).toBe(true)
})

test('only fonts are taken, of a size and a number that a scene can carry, each under an id of its own', () => {
  expect(['a.ttf', 'b.OTF', 'c.woff', 'd.woff2', 'e.png'].filter(isFontName)).toEqual([
    'a.ttf',
    'b.OTF',
    'c.woff',
    'd.woff2'
  ])
  expect(() => ownFace({}, 'x.ttf', new Uint8Array(200))).toThrow('not a TrueType, OpenType or WOFF')
  expect(() => ownFace({}, 'x.woff', new TextEncoder().encode('wOF2 and more'))).toThrow('WOFF 2 is not read')
  expect(() => ownFace({}, 'x.ttf', new Uint8Array(MOST_FONT_BYTES + 1))).toThrow('up to')
  const faces = [mono, { ...mono, id: 'own-3' }]
  expect(ownFace({ faces }, 'x.woff', file).id).toBe('own-2')
  expect(() => ownFace({ faces: Array<typeof mono>(8).fill(mono) }, 'x.woff', file)).toThrow('8 type faces at most')
})

test('fonts that would keep a parser busy for hours are refused at once', () => {
  const bare = bareFont(file)
  const view = new DataView(bare.buffer)
  const tables = Object.fromEntries(
    Array.from({ length: view.getUint16(4) }, (_, n) => [
      String.fromCharCode(...bare.subarray(12 + 16 * n, 16 + 16 * n)),
      view.getUint32(20 + 16 * n)
    ])
  ) as Record<string, number>
  const changed = (change: (font: Uint8Array, at: DataView) => void): Uint8Array => {
    const copy = bare.slice()
    change(copy, new DataView(copy.buffer))
    return copy
  }
  expect(bareFont(changed(() => undefined))).toEqual(bare)
  // a map of one range over all that 32 bits can count
  const endless = changed((_, at) => {
    at.setUint16(tables.cmap! + 2, 1)
    at.setUint32(tables.cmap! + 8, 12)
    at.setUint16(tables.cmap! + 12, 12)
    at.setUint32(tables.cmap! + 24, 1)
    at.setUint32(tables.cmap! + 28, 0)
    at.setUint32(tables.cmap! + 32, 0xffffffff)
  })
  expect(() => bareFont(endless)).toThrow('more characters than there are')
  // a letter made of itself
  const long = view.getInt16(tables.head! + 50) === 1
  const at = long ? view.getUint32(tables.loca! + 4 * 40) : 2 * view.getUint16(tables.loca! + 2 * 40)
  const itself = changed((_, font) => {
    font.setInt16(tables.glyf! + at, -1)
    font.setUint16(tables.glyf! + at + 10, 0)
    font.setUint16(tables.glyf! + at + 12, 40)
  })
  expect(() => bareFont(itself)).toThrow('letters without end')
})

/** The same letters with PostScript outlines, as a library writes them. */
function postScript(): Uint8Array {
  const given = parse(bareFont(file).buffer)
  const glyphs = Array.from({ length: 120 }, (_, n) => given.glyphs.get(n)).map(
    ({ name, unicode, advanceWidth, path }, n) =>
      new Glyph({ name: n === 0 ? '.notdef' : (name ?? `g${n}`), unicode: unicode!, advanceWidth: advanceWidth!, path })
  )
  const { unitsPerEm, ascender, descender } = given
  const font = new Font({ familyName: 'Palm', styleName: 'Regular', unitsPerEm, ascender, descender, glyphs })
  return new Uint8Array(font.toArrayBuffer())
}

test('a font with PostScript outlines letters as the one with curves that it was made of', async () => {
  const otf = postScript()
  expect(String.fromCharCode(...otf.subarray(0, 4))).toBe('OTTO')
  const face = ownFace({}, 'Palm.otf', otf)
  const [programs, curves] = await Promise.all(
    [face, mono].map(async own => (await SceneRenderer.of(Scene.parse(sceneIn('own-1', 'Fern', [own])), host)).frame(0))
  )
  const alphaOf = (samples: ArrayLike<number>): number[] => Array.from(samples).filter((_, i) => i % 4 === 3)
  const [found, due] = [alphaOf(programs!.samples), alphaOf(curves!.samples)]
  const sum = (codes: readonly number[]): number => codes.reduce((all, code) => all + code, 0)
  expect(sum(due)).toBeGreaterThan(65535 * 100)
  expect(Math.abs(sum(found) / sum(due) - 1)).toBeLessThan(0.002)
  // points were rounded to whole units, a thousandth of the size
  expect(Math.max(...found.map((code, i) => Math.abs(code - due[i]!)))).toBeLessThan(0.06 * 65535)
})

test('letters that call themselves, are longer than letters, or reckon, are refused at once', () => {
  const index = (...objects: number[][]): number[] => {
    const offsets = [1]
    for (const object of objects) offsets.push(offsets.at(-1)! + object.length)
    const two = (n: number): number[] => [n >> 8, n & 255]
    return objects.length ? [...two(objects.length), 2, ...offsets.flatMap(two), ...objects.flat()] : [0, 0]
  }
  const int = (n: number): number[] => [29, (n >>> 24) & 255, (n >>> 16) & 255, (n >>> 8) & 255, n & 255]
  const tableOf = (letter: number[], subroutines: number[][], keyed = false): Uint8Array => {
    const top = (letters: number, own: number): number[] => [
      ...(keyed ? [...int(0), ...int(0), ...int(0), 12, 30] : []),
      ...[...int(letters), 17, ...int(6), ...int(own), 18]
    ]
    const head = [1, 0, 4, 2, ...index([80])]
    const before = head.length + index(top(0, 0)).length
    const rest = [...index(), ...index()]
    const own = before + rest.length
    const body = [...int(6), 19, ...index(...subroutines)]
    return Uint8Array.from([...head, ...index(top(own + body.length, own)), ...rest, ...body, ...index(letter)])
  }
  // -107 calls the first of few subroutines
  const call = [139 - 107, 10]
  checkPrograms(tableOf([...call, 14], [[139, 22, 11]]))
  expect(() => checkPrograms(tableOf([...call, 14], [[...call, 11]]))).toThrow('without end')
  // ten deep, each of which calls the next twenty times over
  const chain = Array.from({ length: 9 }, (_, n) => [
    ...Array<number[]>(20)
      .fill([139 - 106 + n, 10])
      .flat(),
    11
  ])
  expect(() => checkPrograms(tableOf([...call, 14], [...chain, [11]]))).toThrow('longer than letters are')
  expect(() => checkPrograms(tableOf([139, 139, 12, 10, 14], [[11]]))).toThrow('reckon')
  expect(() => checkPrograms(tableOf([240, 10, 14], [[11]]))).toThrow('calls what is not there')
  expect(() => checkPrograms(tableOf([14], [[11]], true))).toThrow('East Asian')
})

test('damaged and cut fonts end in one clear error or a picture', async () => {
  const otf = postScript()
  for (let seed = 0; seed < 400; seed++) {
    const bytes = damage(seed % 2 ? file : otf, seed)
    await survives(async () => {
      const face = ownFace({}, 'x.otf', bytes)
      const renderer = await SceneRenderer.of(sceneIn('own-1', 'Fern', [face]), host)
      renderer.frame(0)
    })
  }
  await expect(SceneRenderer.of(sceneIn('own-1', 'Fern', [{ ...mono, data: '%%%' }]), host)).rejects.toThrow(
    'Glasshouse Mono: its type face is not a file in base64'
  )
})

describe('kerning', () => {
  const bytes = readFileSync(
    path.join(root, 'node_modules/@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-700-normal.woff')
  )
  const font = parse(new Uint8Array(bytes).buffer)
  const glyph = (letter: string): number => font.charToGlyphIndex(letter)

  test('pairs stand nearer or further as the face says, and others as they are', () => {
    const kerning = kerningIn(new Uint8Array(bytes))
    expect(kerning(glyph('A'), glyph('V'))).toBeLessThan(-10)
    expect(kerning(glyph('V'), glyph('A'))).toBeLessThan(-10)
    expect(kerning(glyph('H'), glyph('H'))).toBe(0)
    expect(kerning(60_000, 60_000)).toBe(0)
  })

  test('a damaged table moves letters by something or nothing, and never fails', () => {
    for (let seed = 0; seed < 300; seed++) {
      const kerning = kerningIn(damage(new Uint8Array(bytes), seed))
      for (const left of 'AVTo') expect(Number.isFinite(kerning(glyph(left), glyph('y')))).toBe(true)
    }
    expect(kerningIn(new Uint8Array(3))(1, 2)).toBe(0)
  })
})
