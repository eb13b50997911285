/** A shot before a screen at 1080p, as a camera and a codec hand it over, keyed in each way. */
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, prepared } from '../../core/prepare/preparation'
import type { Frame } from '../../core/frame/frame'
import type { Kernels } from '../../core/frame/kernels/kernels'
import type { SourceFacts } from '../../core/source/source'
import { enlarged, filmedAs, filmings, keyShots } from '../../tests/material/keys'

const FILMS = ['clean', 'noise of 0.8 %', '4:2:0 with noise of 0.8 %']

const WAYS = [
  { name: 'colour beside', settings: { edges: 'beside' } },
  { name: 'hue alone', settings: { edges: 'hue' } }
]

/** What is measured, by name: each makes one frame, from 8 bits as filmed to 16 bits keyed. */
export function keyBenches(kernels: Kernels): { what: string; work: () => Promise<Frame> }[] {
  const truth = enlarged(keyShots.find(shot => shot.name === 'hair')!.truth, 6)
  return FILMS.flatMap(name => {
    const frame = filmedAs(
      truth,
      filmings.find(film => film.name === name)!
    )
    const facts: SourceFacts = {
      name,
      format: 'png-sequence',
      kind: 'bench',
      width: frame.width,
      height: frame.height,
      frames: 1,
      rate: [25, 1],
      rateFrom: 'file',
      bitDepth: 8,
      claim: { mode: 'none', matte: null, says: '' },
      colour: null,
      pixelAspect: [1, 1],
      plays: null,
      bytes: 0,
      findings: []
    }
    const source = { facts, frame: () => Promise.resolve(frame), close: () => Promise.resolve() }
    return WAYS.map(way => {
      const step = newStep('key', stepKindById('chroma-key'), { screen: '#2ba347', ...way.settings })
      const made = prepared(source, [step], new Map(), kernels)
      return { what: `key by ${way.name}, ${name}`, work: () => made.frame(0) }
    })
  })
}
