/** Which mode is it? Every made-up content in every mode: the answer is right, or says that it cannot tell where both readings agree. */
import { expect, test } from 'vitest'
import { examine } from '../../core/examine/examination'
import { lookAt } from '../../core/examine/look'
import { withAlphaMode } from '../../core/frame/alpha'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import type { SourceFacts } from '../../core/source/source'
import { box, Canvas, ellipse, stroke } from '../../demo/canvas'
import { lettering } from '../../demo/letters'
import { testHost } from './support'

const { kernels } = await testHost()
const [W, H] = [240, 140]

function drawn(draw: (canvas: Canvas, t: number) => void): Frame[] {
  return [0, 0.4, 0.8].map(t => {
    const canvas = new Canvas(W, H)
    draw(canvas, t)
    return canvas.frame(8)
  })
}

const CONTENTS: Record<string, Frame[]> = {
  'soft shapes': drawn((c, t) => {
    c.fill(ellipse(80 + 20 * t, 70, 50, 40), [190, 90, 40], 1, 14)
    c.fill(ellipse(150, 70 - 10 * t, 40, 36), [60, 110, 180], 1, 5)
  }),
  lettering: drawn((c, t) => c.fill(lettering('POLLEN', 20 + 10 * t, 40, 34, 6), [220, 170, 60])),
  'hair-thin lines': drawn((c, t) => {
    for (let n = 0; n < 9; n++)
      c.fill(
        stroke(
          [
            [10, 10 + 13 * n],
            [220, 14 + 12 * n + 8 * t]
          ],
          1.3
        ),
        [70, 130, 60]
      )
  }),
  'a soft glow': drawn((c, t) => c.fill(ellipse(120, 70, 20 + 20 * t, 20), [250, 200, 90], 1, 60)),
  'nearly opaque': drawn((c, t) => {
    c.fill(box(20, 20, 200 + 10 * t, 120, 8), [40, 90, 80], 0.94)
    c.fill(box(50, 50, 150, 90, 4), [230, 220, 200], 1)
  }),
  'nearly clear': drawn((c, t) => {
    c.fill(box(20, 20, 200 + 10 * t, 120, 8), [200, 60, 40], 0.12)
    c.fill(ellipse(100, 70, 30, 20), [200, 60, 40], 0.9)
  }),
  'pure white': drawn((c, t) => c.fill(ellipse(110 + 20 * t, 70, 60, 40), [255, 255, 255], 1, 4)),
  'pure black': drawn((c, t) => c.fill(ellipse(110 + 20 * t, 70, 60, 40), [0, 0, 0], 1, 4))
}
const MODES: AlphaMode[] = [
  STRAIGHT,
  ...['#000000', '#ffffff', '#3fae4b', '#808080'].map((matte): AlphaMode => ({ mode: 'premultiplied', matte }))
]

function answerFor(frames: readonly Frame[]) {
  const facts: SourceFacts = {
    name: 'm',
    format: 'tiff-sequence',
    kind: 'TIFF',
    width: W,
    height: H,
    frames: frames.length,
    rate: [24, 1],
    rateFrom: 'file',
    bitDepth: 8,
    claim: { mode: 'unknown', matte: null, says: 'nothing' },
    colour: null,
    pixelAspect: [1, 1],
    plays: null,
    bytes: 1,
    findings: []
  }
  return examine(
    frames.map((frame, i) => ({ frame: i + 1, look: lookAt(frame, kernels) })),
    facts
  ).alpha
}

/** Largest difference of the visible codes of two frames. */
function apart(a: Frame, b: Frame): number {
  let most = 0
  for (let i = 0; i < a.samples.length; i += 4)
    if (a.samples[i + 3]! > 0)
      for (let c = 0; c < 3; c++) most = Math.max(most, Math.abs(a.samples[i + c]! - b.samples[i + c]!))
  return most
}

test.each(
  Object.keys(CONTENTS).flatMap(content =>
    MODES.map(
      mode => [content, mode.mode === 'premultiplied' ? `premultiplied on ${mode.matte}` : mode.mode, mode] as const
    )
  )
)('%s, %s', (content, _, mode) => {
  const frames = CONTENTS[content]!
  const stored = frames.map(frame => ({ ...withAlphaMode(frame, mode, kernels), alpha: STRAIGHT }))
  const found = answerFor(stored)
  const said = `${found.mode} ${found.matte ?? ''} ${found.confidence}: ${found.evidence.sentence}`
  if (found.mode === mode.mode && (mode.mode !== 'premultiplied' || found.matte === mode.matte)) return
  // another answer may stand only where the samples are the same under it; none, only where there is such another
  const sameUnder = (other: AlphaMode): boolean =>
    stored.every((frame, i) => apart(frame, withAlphaMode(frames[i]!, other, kernels)) <= 2)
  if (found.mode === 'unknown') expect(MODES.filter(other => other !== mode).some(sameUnder), said).toBe(true)
  else
    expect(
      sameUnder(found.mode === 'premultiplied' ? { mode: 'premultiplied', matte: found.matte! } : STRAIGHT),
      said
    ).toBe(true)
})
