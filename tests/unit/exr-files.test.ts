/** OpenEXR files written by the format's own library: every compression, tiles, parts, windows apart. */
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import { memoryReader } from '../../core/base/files/file'
import type { Frame } from '../../core/frame/frame'
import { takeIn } from '../../core/run/intake/intake'
import { encodePng } from '../../core/media/pictures/png/encode'
import { decodeExr, layersOfFile, readExrInfo } from '../../core/media/pictures/exr/read'
import { openSource } from '../../core/open/open'
import { builtCommandLine, runIn } from './command-line'
import { bytesFile, damage, noise, survives, testHost, vectors } from './support'

const host = await testHost()
const [WIDTH, HEIGHT] = [61, 37]

const fileOf = (name: string): Promise<Buffer> => readFile(path.join(vectors, 'exr-packed', name))

async function decoded(name: string, layer?: string): Promise<Frame> {
  return decodeExr(host, memoryReader(name, new Uint8Array(await fileOf(name))), layer)
}

/** What the library itself reads of a file: red, green, blue and alpha as floats. */
async function libraryRead(name: string): Promise<Float32Array> {
  return new Float32Array(new Uint8Array(await fileOf(`${name}.f32`)).buffer)
}

function apart(found: Frame, due: Float32Array, [left, top]: readonly [number, number] = [0, 0]): number[] {
  const most = [0, 0, 0, 0]
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      for (let c = 0; c < 4; c++) {
        const value = found.samples[4 * ((y + top) * found.width + x + left) + c]!
        most[c] = Math.max(most[c]!, Math.abs(value - due[4 * (y * WIDTH + x) + c]!))
      }
  return most
}

describe('what the library packed is read as the library reads it', () => {
  test.each(['tiled-zip', 'tiled-mipmap-piz', 'pxr24-half'])('%s: as the plain file, value for value', async name => {
    const [found, plain] = [await decoded(`${name}.exr`), await decoded('plain.exr')]
    expect(found.samples).toEqual(plain.samples)
    expect(found.alpha).toEqual({ mode: 'premultiplied', matte: '#000000' })
  })

  test.each(['pxr24-float', 'b44', 'b44a'])('%s: value for value', async name => {
    expect(apart(await decoded(`${name}.exr`), await libraryRead(name))).toEqual([0, 0, 0, 0])
  })

  // a cosine transform in double precision lands on the next half now and then; alpha is exact
  test.each([
    ['dwaa', 'dwaa', [5, 3]],
    ['dwab', 'dwaa', [0, 0]],
    ['tiled-dwaa', 'dwaa', [0, 0]],
    ['dwaa-float', 'dwaa-float', [0, 0]]
  ] as const)('%s: colour within a step of half precision, alpha exact', async (name, due, window) => {
    const found = await decoded(`${name}.exr`)
    const [r, g, b, a] = apart(found, await libraryRead(due), window) as [number, number, number, number]
    expect(Math.max(r, g, b)).toBeLessThan(0.004)
    expect(a).toBe(0)
    if (window[0]) {
      // the display window is larger than the data: what lies around it is clear
      expect([found.width, found.height]).toEqual([70, 49])
      expect(found.samples.slice(0, 4)).toEqual(new Float32Array(4))
    }
  })
})

describe('layers', () => {
  test('parts are layers by their names, the one meant to be seen first; another is taken by name', async () => {
    const info = readExrInfo(new Uint8Array(await fileOf('parts.exr')), 'parts.exr')
    expect(layersOfFile(info).map(({ title }) => title)).toEqual(['beauty', 'diffuse'])
    const plain = await decoded('plain.exr')
    const [beauty, diffuse] = [await decoded('parts.exr'), await decoded('parts.exr', 'diffuse')]
    expect(beauty.samples).toEqual(plain.samples)
    expect(diffuse.alpha.mode).toBe('none')
    // green is that of the beauty, red a quarter of it, as it was made
    expect(apart(diffuse, beauty.samples as Float32Array)[1]).toBe(0)
    await expect(decoded('parts.exr', 'specular')).rejects.toThrow('no layer "specular"; it has "beauty", "diffuse"')
  })

  test('a source says which it has, and a description takes another', async () => {
    const { found } = await takeIn([bytesFile('parts.exr', await fileOf('parts.exr'))], host)
    const { spec, facts } = found[0]!
    expect([facts.layers, facts.layer]).toEqual([['beauty', 'diffuse'], 'beauty'])
    expect(facts.findings.find(finding => finding.id === 'layers')!.sentence).toContain('left out is "diffuse"')
    const other = await openSource(
      { ...spec, id: 'other', common: null, interpretation: { ...spec.interpretation, layer: 'diffuse' } },
      host
    )
    expect([other.facts.layer, other.facts.claim.mode]).toEqual(['diffuse', 'none'])
    expect((await other.frame(0)).samples).toEqual((await decoded('parts.exr', 'diffuse')).samples)
    await other.close()
  })

  test('lossy packing is told', async () => {
    const { found } = await takeIn([bytesFile('dwaa.exr', await fileOf('dwaa.exr'))], host)
    expect(found[0]!.facts.findings.find(finding => finding.id === 'lossy-source')!.sentence).toContain('DWAA')
  })
})

test('damaged files of every kind end in one clear error or a picture', async () => {
  for (const name of ['b44', 'b44a', 'pxr24-float', 'dwaa', 'dwab', 'tiled-dwaa', 'tiled-mipmap-piz', 'parts']) {
    const whole = new Uint8Array(await fileOf(`${name}.exr`))
    const ends = new Set<string>()
    for (let seed = 0; seed < 60; seed++)
      ends.add(await survives(() => decodeExr(host, memoryReader(name, damage(whole, seed)))))
    expect(ends).toContain('refused')
  }
})

const folder = await mkdtemp(path.join(tmpdir(), 'pour-exr-'))
afterAll(() => rm(folder, { recursive: true, force: true }))

test('the command line takes a layer by name, and refuses one that is not there', async () => {
  await builtCommandLine()
  const source = path.join(vectors, 'exr-packed/parts.exr')
  const call = (to: string, layer: string): ReturnType<typeof runIn> =>
    runIn(folder, ['convert', source, '--format', 'png-sequence', '--to', to, '--layer', layer, '--json'])
  const done = await call('diffuse', 'diffuse')
  expect([done.code, done.error]).toEqual([0, ''])
  const { ledger } = JSON.parse(done.out) as { ledger: { id: string; sentence: string }[] }
  expect(ledger.find(({ id }) => id === 'layers')!.sentence).toContain('"diffuse" is taken; left out is "beauty"')
  const refused = await call('specular', 'specular')
  expect(refused.code).not.toBe(0)
  expect(refused.error).toContain('no layer "specular"')
  await writeFile(path.join(folder, 'one.png'), encodePng(host, noise({ width: 4, height: 4, depth: 8 })))
  const flat = await runIn(folder, ['convert', 'one.png', '--format', 'gif', '--to', 'one.gif', '--layer', 'beauty'])
  expect([flat.code, flat.error]).toEqual([5, expect.stringContaining('holds one picture a file, no layers')])
})

test('light beyond white is no sign of straight alpha, and what integer codes cut off of it is told', async () => {
  await builtCommandLine()
  const source = path.join(vectors, 'exr-packed/plain.exr')
  const { out } = await runIn(folder, [
    ...['convert', source, '--format', 'png-sequence', '--to', 'bright', '--depth', '16', '--json']
  ])
  const { verdict, ledger } = JSON.parse(out) as { verdict: string; ledger: { id: string; sentence: string }[] }
  expect(verdict).toBe('visible-loss')
  expect(ledger.find(({ id }) => id === 'mode')!.sentence).toContain('Taken as premultiplied')
  expect(ledger.find(({ id }) => id === 'beyond-white')!.sentence).toMatch(/up to 1\.7\d times\) and is cut off/)
  const forms = [
    ['png-sequence', '--alpha', 'none'],
    ['tiff-sequence', '--alpha', 'premultiplied'],
    ['png-sequence', '--set', 'parts=colour-only']
  ]
  for (const [i, [format, ...form]] of forms.entries()) {
    const told = await runIn(folder, [
      ...['convert', source, '--format', format!, '--to', `form${i}`, '--depth', '8', '--json', ...form]
    ])
    expect(told.out, form.join(' ')).toContain('"beyond-white"')
  }
  const key = await runIn(folder, [
    ...['convert', source, '--format', 'png-sequence', '--to', 'key', '--set', 'parts=alpha-only', '--json']
  ])
  expect(key.out).toContain('"carriage"')
  expect(key.out).not.toContain('"beyond-white"')
  const inspected = await runIn(folder, ['inspect', source, '--json'])
  expect(inspected.out).not.toContain('light-outside-alpha')
  const kept = await runIn(folder, ['convert', source, '--format', 'exr-sequence', '--to', 'kept', '--json'])
  expect(JSON.parse(kept.out)).toMatchObject({ verdict: 'identical' })
})
