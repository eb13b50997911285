/** Films of every container and codec against files that other writers made: code for code where the coding is lossless. */
import { describe, expect, test } from 'vitest'
import { recognise } from '../../core/formats/registry'
import { memoryReader } from '../../core/files/file'
import { decodePngFile } from '../../core/pictures/png/file'
import { withDepth } from '../../core/frame/depth'
import type { Frame } from '../../core/frame/frame'
import { openSource, specAsFound } from '../../core/source/open'
import { bytesFile, testHost, vectorFile } from './support'

const host = await testHost()

/** The true frame `n`, from 1, as PNG has it. */
async function truth(name: string, n: number): Promise<Frame> {
  const file = await vectorFile(`truth/${name}.000${n}.png`)
  return decodePngFile(host, await host.openFile(file))
}

const LOSSLESS = [
  ['raw-bgra.avi', 'avi-raw', 'straight8'],
  ['raw-bgra-sound.avi', 'avi-raw', 'straight8'],
  ['png8.avi', 'avi-png', 'straight8'],
  ['ffv1-bgra.avi', 'avi-ffv1', 'straight8']
] as const

describe('films of other writers', () => {
  test.each(LOSSLESS)('%s is told from its bytes and read code for code', async (name, id, due) => {
    const file = await vectorFile(name)
    const reader = await host.openFile(file)
    const found = await recognise(reader)
    await reader.close()
    expect(found).toMatchObject({ kind: 'film', format: { id } })
    const source = await openSource(specAsFound(name, name, id, [file]), host)
    expect(source.facts).toMatchObject({ width: 96, height: 64, frames: 6, rate: [12, 1] })
    for (let n = 1; n <= 6; n++) {
      const expected = await truth(due, n)
      const frame = await source.frame(n - 1)
      expect([n, frame.depth]).toEqual([n, expected.depth])
      expect(
        Buffer.compare(Buffer.from(frame.samples.buffer), Buffer.from(expected.samples.buffer)),
        `frame ${n}`
      ).toBe(0)
    }
    await source.close()
  })
})
