/** Type faces that a scene carries along: lettered as shipped ones are, refused in words where they are none. */
import { Font, Glyph, parse } from 'opentype.js'
import { readFileSync } from 'node:fs'
import { expect, test } from 'vitest'
import { emptyScene, newElement, type SceneSize } from '../../core/draw/scene/fresh'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { unpackedWoff } from '../../core/draw/type/sfnt'
import { readScene } from '../../core/draw/scene/format'
import { isFontName, MOST_FONT_BYTES, ownFace, removeFace } from '../../core/draw/scene/own-faces'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene } from '../../core/draw/scene/scene'
import { damage, root, survives, testHost } from './support'

const host = await testHost()
const SIZE: SceneSize = { width: 240, height: 80, rate: [25, 1], seconds: 1 }
const file = await host.font!('ibm-plex-mono-latin-400-normal.woff').then(bytes => new Uint8Array(bytes))
const packed = new Uint8Array(
  readFileSync(`${root}/node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff2`)
)
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
  // what the file lacks is drawn in one that has it, and told
  const cyrillic = await SceneRenderer.of(sceneIn('own-1', 'Сад'), host)
  expect(cyrillic.missing).toEqual([])
  expect(cyrillic.told.map(({ sentence }) => sentence)).toEqual([
    "The type face Glasshouse Mono has no С а д; Pour's own letters it."
  ])
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
  expect(() => ownFace({}, 'x.ttf', new Uint8Array(MOST_FONT_BYTES + 1))).toThrow('up to')
  const faces = [mono, { ...mono, id: 'own-3' }]
  expect(ownFace({ faces }, 'x.woff', file).id).toBe('own-2')
  expect(() => ownFace({ faces: Array<typeof mono>(8).fill(mono) }, 'x.woff', file)).toThrow('8 type faces at most')
})

test('fonts that lead to themselves or to more than there is draw nothing of it, and end', async () => {
  const bare = unpackedWoff(file)
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
  const drawn = async (font: Uint8Array): Promise<number> => {
    const renderer = await SceneRenderer.of(sceneIn('own-1', 'Fern', [ownFace({}, 'x.ttf', font)]), host)
    return Array.from(renderer.frame(0).samples).reduce((sum, code) => sum + code, 0)
  }
  const whole = await drawn(bare)
  expect(await drawn(changed(() => undefined))).toBe(whole)
  // a map of one range over all that 32 bits can count: every letter is the first of it
  const endless = changed((_, at) => {
    at.setUint16(tables.cmap! + 2, 1)
    at.setUint32(tables.cmap! + 8, 12)
    at.setUint16(tables.cmap! + 12, 12)
    at.setUint32(tables.cmap! + 24, 1)
    at.setUint32(tables.cmap! + 28, 0)
    at.setUint32(tables.cmap! + 32, 0xffffffff)
  })
  await survives(() => drawn(endless))
  // a letter made of itself
  const long = view.getInt16(tables.head! + 50) === 1
  const { outline, shape } = await host.shaper!.open(bare)
  const { glyph } = shape('F', { from: 0, to: 1, rightToLeft: false, features: '' })[0]!
  expect(outline(glyph).length).toBeGreaterThan(5)
  const at = long ? view.getUint32(tables.loca! + 4 * glyph) : 2 * view.getUint16(tables.loca! + 2 * glyph)
  const itself = changed((_, font) => {
    font.setInt16(tables.glyf! + at, -1)
    font.setUint16(tables.glyf! + at + 10, 0)
    font.setUint16(tables.glyf! + at + 12, glyph)
  })
  expect(await drawn(itself)).toBeLessThan(whole)
})

test('a file of WOFF 2 letters as the same font does in WOFF 1; one that says too large a size is refused', async () => {
  const face = ownFace({}, 'Mono.woff2', packed)
  const [one, two] = await Promise.all(
    [mono, face].map(async each => (await SceneRenderer.of(sceneIn('own-1', 'Fern & Palm', [each]), host)).frame(0))
  )
  expect(two!.samples).toEqual(one!.samples)
  const swollen = packed.slice()
  new DataView(swollen.buffer).setUint32(16, 0xf0000000)
  await expect(SceneRenderer.of(sceneIn('own-1', 'Fern', [ownFace({}, 'x.woff2', swollen)]), host)).rejects.toThrow(
    'x: the type face cannot be read (it unpacks to more than a font has)'
  )
  const cut = ownFace({}, 'x.woff2', packed.subarray(0, packed.length >> 1))
  await expect(SceneRenderer.of(sceneIn('own-1', 'Fern', [cut]), host)).rejects.toThrow('cannot be read')
})

/** The same letters with PostScript outlines, as a library writes them. */
function postScript(): Uint8Array {
  const given = parse(unpackedWoff(file).buffer)
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

test('damaged and cut fonts end in one clear error or a picture', async () => {
  const otf = postScript()
  for (let seed = 0; seed < 400; seed++) {
    const bytes = damage([file, otf, packed][seed % 3]!, seed)
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
