/** What a format's row says of its settings is what its encoder takes: every choice, and both ends of every range. */
import { expect, test } from 'vitest'
import { writtenFormats } from '../../core/open/registry'
import { optionValues, problemOf, type Field } from '../../core/base/settings/field'
import type { AlphaMode } from '../../core/frame/frame'
import { deliverable, noise, testHost } from './support'
import { memoryFiles } from './memory-files'

const host = await testHost()

function extremes(field: Field): (string | number | boolean)[] {
  if (field.type === 'number') return [field.min, field.max]
  if (field.type === 'choice') return field.choices.map(choice => choice.value)
  return field.type === 'text' ? [field.example] : [true, false]
}

const onNode = writtenFormats.filter(format => !format.needs || format.needs === 'webp')

test.each(onNode.map(format => format.id))('%s takes all that its settings offer', async id => {
  const format = onNode.find(known => known.id === id)!
  const usual = optionValues(format.options, {})
  for (const [key, field] of Object.entries(format.options))
    for (const value of extremes(field)) {
      expect([key, value, problemOf(field, value)]).toEqual([key, value, null])
      for (const other of key === 'quality' ? ['near-lossless', 'lossy'] : [usual.coding]) {
        const options = { ...usual, ...(other === undefined ? {} : { coding: other }), [key]: value }
        const depth = format.depths[0]!.depth
        const frame = noise({ width: 24, height: 16, depth: depth === 32 ? 16 : depth, seed: 5, runs: 0.8 })
        const alpha: AlphaMode = format.alpha.straight.can
          ? { mode: 'straight' }
          : format.alpha.premultiplied.can
            ? { mode: 'premultiplied', matte: '#000000' }
            : { mode: 'none' }
        const form = deliverable({ ...frame, depth, alpha }, 2, { options, rate: [24, 1], alpha, depth })
        const { target, files } = memoryFiles(format, `a.${format.extension}`)
        const assembler = await format.assemble(target, form, host)
        const due = {
          ...frame,
          alpha,
          depth,
          samples: depth === 32 ? Float32Array.from(frame.samples, s => s / 65535) : frame.samples
        }
        for (const index of [0, 1]) {
          const before = index > 0 && format.buildsOn?.(index, form) ? due : null
          await assembler.add(index, await format.encode(host, due, form, before))
        }
        await assembler.finish()
        const source = await format.openForProof('a', files(), host)
        expect([key, value, source.facts.frames]).toEqual([key, value, 2])
        expect((await source.frame(1)).width).toBe(24)
        await source.close()
      }
    }
})

test('beyond its range a number is refused', () => {
  for (const format of writtenFormats)
    for (const field of Object.values(format.options))
      if (field.type === 'number')
        for (const value of [field.min - 1, field.max + 1, field.min + 0.5, NaN])
          expect(problemOf(field, value)).toMatch(/whole number/)
})
