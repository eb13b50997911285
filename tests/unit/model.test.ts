/** Models: what a file says of itself, what is refused, and that the command line sends one to the page. */
import { expect, test } from 'vitest'
import { takeIn } from '../../core/run/intake/intake'
import { mayBeModel, readModel } from '../../core/draw/model/gltf'
import { boxModel } from '../material/model'
import { bytesFile, damage, survives, testHost } from './support'

const host = await testHost()

test('a still model turns once, a moving one lasts as long as its animation', () => {
  expect(readModel(boxModel(), 'box.glb')).toEqual({ frames: 100, moves: false, camera: false, leftOut: [] })
  expect(readModel(boxModel({ seconds: 2 }), 'box.glb')).toMatchObject({ frames: 50, moves: true })
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
