/** Models: what a file says of itself, what is refused, and that the command line sends one to the page. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { takeIn } from '../../core/run/intake/intake'
import { mayBeModel, readModel } from '../../core/draw/model/gltf'
import { readView, writeView } from '../../core/draw/model/view'
import { formatById } from '../../core/open/registry'
import { boxModel } from '../material/model'
import { bytesFile, damage, survives, testHost } from './support'

const host = await testHost()

test('a still model turns once, a moving one lasts as long as its animation', () => {
  expect(readModel(boxModel(), 'box.glb')).toEqual({ seconds: 4, moves: false, camera: false, leftOut: [] })
  expect(readModel(boxModel({ seconds: 2 }), 'box.glb')).toMatchObject({ seconds: 2, moves: true })
})

test('what is left out is named, and what cannot do without is refused', () => {
  const used = boxModel({
    change: json => Object.assign(json, { extensionsUsed: ['EXT_of_nobody', 'KHR_materials_unlit'] })
  })
  expect(readModel(used, 'box.glb').leftOut).toEqual(['EXT_of_nobody'])
  const pictures = boxModel({ change: json => Object.assign(json, { images: [{ uri: 'http://host.invalid/a.png' }] }) })
  expect(readModel(pictures, 'box.glb').leftOut.join()).toContain('outside the file')
  const cases: [(json: Record<string, unknown>) => void, RegExp][] = [
    [json => Object.assign(json, { extensionsRequired: ['EXT_of_nobody'] }), /cannot be drawn without EXT_of_nobody/],
    [json => Object.assign(json, { buffers: [{ uri: 'box.bin', byteLength: 9 }] }), /lie in another file/],
    [json => Object.assign(json, { asset: { version: '1.0' } }), /not a glTF 2\.0 file/],
    [json => Object.assign((json.accessors as { count: number }[])[0]!, { count: 2e9 }), /more than can be taken/],
    [json => Object.assign(json, { nodes: Array.from({ length: 60_000 }, () => ({})) }), /more than 50000 nodes/]
  ]
  for (const [change, why] of cases) expect(() => readModel(boxModel({ change }), 'box.glb')).toThrow(why)
})

test('other JSON is no model, and other files are not', () => {
  expect(mayBeModel(new TextEncoder().encode('{"pour":"scene"}'))).toBe(false)
  expect(mayBeModel(new Uint8Array(64))).toBe(false)
  expect(mayBeModel(boxModel().subarray(0, 64))).toBe(true)
})

test('where there is no browser it is sent there in words', async () => {
  const { found, findings } = await takeIn([bytesFile('box.glb', boxModel())], host)
  expect(found).toEqual([])
  expect(findings[0]!.sentence).toContain('drawn in the page')
})

test('damaged at random it ends in one clear error', async () => {
  const bytes = boxModel({ seconds: 1 })
  for (let n = 0; n < 200; n++) {
    await survives(() => Promise.resolve().then(() => readModel(damage(bytes, n), 'box.glb')))
    await survives(() => takeIn([bytesFile('box.glb', damage(bytes, n))], host))
  }
})

test('a view is one line of text, and comes back from it; what is not understood is named', () => {
  expect(readView(undefined)).toMatchObject({ size: undefined, view: { turned: 0, rate: 25, turns: 'still' } })
  const asked = readView('640x360 turned=45 shadow=0 own=off turns=once rate=23.976')
  expect(asked).toMatchObject({
    size: '640x360',
    view: { turned: 45, shadow: 0, own: false, turns: 'once', rate: 23.976, tilted: 14 }
  })
  expect(writeView(asked)).toBe('640x360 turned=45 own=off shadow=0 turns=once rate=23.976')
  expect(writeView(readView('turned=0'))).toBe('')
  expect(() => readView('640x360 colour=red')).toThrow(/a model has no “colour”; it takes turned, tilted, near/)
  expect(() => readView('tilted=90')).toThrow(/tilted=90: From above: a number from -89 to 89 is needed/)
  expect(() => readView('640x360 quickly')).toThrow(/no “quickly”/)
  expect(() => readView('turns=twice')).toThrow(/Turntable: one of still, once, never/)
  fc.assert(
    fc.property(
      fc.record({
        ...{ turned: fc.integer({ min: -180, max: 180 }), tilted: fc.integer({ min: -89, max: 89 }) },
        ...{ own: fc.boolean(), turns: fc.constantFrom('still', 'once', 'never') },
        shadow: fc.integer({ min: 0, max: 20 }).map(n => n / 20)
      }),
      changes => {
        const view = { ...readView(undefined).view, ...changes }
        expect(readView(writeView({ size: '320x180', view }))).toEqual({ size: '320x180', view })
      }
    )
  )
})

test('a model lasts and runs as it is asked to, and says what of its animation is drawn', async () => {
  const looks: object[] = []
  const own = {
    ...host,
    models: {
      open: (_: Uint8Array, how: object) => {
        looks.push(how)
        return Promise.resolve({ frame: () => new Float32Array(4 * 8 * 6), close: () => undefined })
      }
    }
  } as typeof host
  const opened = async (layer: string, seconds?: number) => {
    const source = await formatById('model').open(
      'box',
      [bytesFile('box.glb', boxModel(seconds ? { seconds } : {}))],
      own,
      layer
    )
    await source.close()
    return source.facts
  }
  expect(await opened('8x6')).toMatchObject({ frames: 100, rate: [25, 1], layer: '8x6' })
  expect(await opened('8x6 rate=29.97002997 seconds=2')).toMatchObject({ frames: 60, rate: [30000, 1001] })
  expect(await opened('8x6 rate=23.976 turned=45', 2)).toMatchObject({ frames: 48, rate: [24000, 1001] })
  expect(looks.at(-1)).toMatchObject({ width: 8, height: 6, moves: true, view: { turned: 45 } })
  const said = async (layer: string, seconds?: number): Promise<string> =>
    (await opened(layer, seconds)).findings.find(({ id }) => id === 'model-drawn')!.sentence
  expect(await said('8x6 seconds=5', 2)).toContain(
    'Its first animation is drawn again and again, seen from 0° around it'
  )
  expect(await said('8x6 seconds=1 shadow=0', 2)).toContain('The first 1 s of its first animation are drawn')
  expect(await said('8x6 turns=never tilted=-20')).toMatch(/it does not turn: all frames are the same, .* 20° below/)
  await expect(opened('8x6 colour=red')).rejects.toThrow(/a model has no “colour”/)
})
