/** Facts of a small sequence of PNG files, as a test needs them where no file is read. */
import type { SourceFacts } from '../../core/source/source'

export const strapFacts = (more: Partial<SourceFacts> = {}): SourceFacts => ({
  name: 'strap',
  format: 'png-sequence',
  kind: 'PNG',
  width: 64,
  height: 36,
  frames: 10,
  rate: [25, 1],
  rateFrom: 'asked',
  bitDepth: 8,
  claim: { mode: 'straight', matte: null, says: 'PNG is straight by its standard' },
  colour: null,
  pixelAspect: [1, 1],
  plays: null,
  bytes: 1,
  findings: [],
  ...more
})
