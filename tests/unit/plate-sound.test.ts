/** Sound of a plate before a screen: asked about, left out by a step or let go along, and told as asked. */
import { describe, expect, test } from 'vitest'
import { potOnScreen } from '../../demo/scenes'
import { withDepth } from '../../core/frame/depth'
import { OPAQUE, STRAIGHT, type Frame } from '../../core/frame/frame'
import { examine } from '../../core/judge/examine/examination'
import { lookAtStored } from '../../core/judge/examine/look'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, preparedFacts } from '../../core/prepare/preparation'
import { LEFT_OUT_BY_STEP, SoundFacts, soundsOf } from '../../core/source/sound'
import type { SourceFacts } from '../../core/source/source'
import { noise, testHost } from './support'

const { kernels } = await testHost()
const sound = (more: Partial<SoundFacts> = {}): SoundFacts =>
  SoundFacts.parse({
    codec: 'PCM',
    coding: 'pcm',
    rate: 48000,
    channels: 2,
    bits: 16,
    samples: 48000,
    leftOut: null,
    ...more
  })

function factsOf(frame: Frame, more: Partial<SourceFacts>): SourceFacts {
  return {
    name: 'plate',
    format: 'opaque-film',
    kind: 'film',
    width: frame.width,
    height: frame.height,
    frames: 2,
    rate: [25, 1],
    rateFrom: 'file',
    bitDepth: 8,
    claim: { mode: frame.alpha.mode === 'none' ? 'none' : 'straight', matte: null, says: '' },
    colour: 'BT.709',
    pixelAspect: [1, 1],
    plays: null,
    bytes: 1,
    findings: [],
    ...more
  }
}

const idsOf = (frame: Frame, more: Partial<SourceFacts>): string[] =>
  examine(
    [1, 2].map(n => ({ frame: n, look: lookAtStored(frame, kernels) })),
    factsOf(frame, more)
  ).findings.map(({ id }) => id)

const plate: Frame = { ...withDepth(potOnScreen(0.5), 8, kernels), alpha: OPAQUE }

describe('what is asked', () => {
  test('a plate with sound is asked about, one without or one that is no plate is not', () => {
    expect(idsOf(plate, { sound: sound() })).toContain('plate-sound')
    expect(idsOf(plate, { sound: sound() })).not.toContain('has-sound')
    expect(idsOf(plate, {})).not.toContain('plate-sound')
    expect(idsOf(plate, { sound: sound({ leftOut: 'not read' }) })).not.toContain('plate-sound')
    const other: Frame = { ...noise({ width: 64, height: 48, depth: 8, seed: 3 }), alpha: STRAIGHT }
    expect(idsOf(other, { sound: sound() })).toContain('has-sound')
  })
})

describe('the step', () => {
  const after = (goes: string): SourceFacts =>
    preparedFacts(factsOf(plate, { sound: sound(), moreSounds: [sound()] }), [
      newStep('s', stepKindById('sound'), { goes })
    ])

  test('leaves every track out, and nothing else changes', () => {
    const made = after('out')
    expect(soundsOf(made).map(({ leftOut }) => leftOut)).toEqual([LEFT_OUT_BY_STEP, LEFT_OUT_BY_STEP])
    expect([made.frames, made.rate]).toEqual([2, [25, 1]])
  })

  test('lets it go along, sample for sample', () => {
    const made = soundsOf(after('along'))
    expect(made.map(({ leftOut, samples }) => [leftOut, samples])).toEqual([
      [null, 48000],
      [null, 48000]
    ])
  })
})
