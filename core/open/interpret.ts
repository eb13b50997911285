/** Stored frames and facts as they are taken: what was decided by hand stands before what the file says. */
import { sayNumbers } from '../base/natural'
import { sameRate } from '../base/rate'
import { readAs } from '../frame/alpha'
import { tagsByHand } from '../frame/colour-tags'
import { OPAQUE, STRAIGHT, type AlphaMode, type Frame } from '../frame/frame'
import { soundFacts, soundsOf } from '../source/sound'
import type { AlphaClaim, FilesSpec, Interpretation, Source, SourceFacts } from '../source/source'
import { frameOrder } from './frame-order'

/** The mode frames are taken to have: what was decided, else what the file claims, else straight. */
export function modeTaken(claim: AlphaClaim, interpretation: Interpretation): AlphaMode {
  if (interpretation.alpha) return interpretation.alpha
  if (claim.mode === 'none') return OPAQUE
  if (claim.mode === 'premultiplied') return { mode: 'premultiplied', matte: claim.matte ?? '#000000' }
  return STRAIGHT
}

/** Every track of sound left out for a reason, but for those that have one already. */
function silenced(facts: SourceFacts, why: string): Pick<SourceFacts, 'sound' | 'moreSounds'> {
  return soundFacts(soundsOf(facts).map(sound => ({ ...sound, leftOut: sound.leftOut ?? why })))
}

/** The sound of a source played at a rate: left out where that is not the file's own. */
export function soundAt(facts: SourceFacts, rate: SourceFacts['rate']): Pick<SourceFacts, 'sound' | 'moreSounds'> {
  if (!rate || sameRate(rate, facts.rate)) return soundFacts(soundsOf(facts))
  return silenced(facts, 'the pictures are played at another rate than the file says')
}

/** Tags of a colour that was said by hand. */
function named(words: string): SourceFacts['tags'] {
  const tags = tagsByHand(words)
  return tags && [...tags]
}

/** The number of the first frame that is shown: that of a picture left out counts no more. */
function firstShown({ numbers, interpretation: { damaged } }: Omit<FilesSpec, 'id'>): number {
  const out = damaged?.as === 'skip' ? new Set(damaged.numbers) : null
  return (out && numbers!.find(number => !out.has(number))) ?? numbers![0]!
}

/** `facts` as they stand once the interpretation is applied. */
export function interpretedFacts(stored: SourceFacts, spec: Omit<FilesSpec, 'id'>): SourceFacts {
  const { interpretation } = spec
  const facts =
    interpretation.eachPicture && stored.each
      ? {
          ...stored,
          ...stored.each,
          ...silenced(stored, 'the pictures are taken one by one, not as the film shows them')
        }
      : stored
  // numbers are of pictures, one a frame
  const numbered = spec.numbers?.length === facts.frames
  const first = numbered ? firstShown(spec) : -1
  // what was undecided when it was stored may have been decided since
  const { stops: _, ...known } = facts
  return {
    ...known,
    name: spec.name,
    original: stored.original ?? stored.name,
    ...(first >= 0 ? { firstNumber: first } : {}),
    frames: numbered ? frameOrder(spec).length : facts.frames,
    rate: interpretation.rate ?? facts.rate,
    ...soundAt(facts, interpretation.rate),
    pixelAspect: interpretation.pixelAspect ?? facts.pixelAspect,
    colour: interpretation.colour ?? facts.colour,
    tags:
      interpretation.colour && interpretation.colour !== facts.colour
        ? named(interpretation.colour)
        : (facts.tags ?? null),
    rateFrom: interpretation.rate ? (interpretation.rateFrom ?? 'asked') : facts.rateFrom,
    ...(interpretation.damaged && !interpretation.damaged.as ? { stops: sayDamaged(interpretation.damaged) } : {}),
    findings: [...spec.findings, ...facts.findings]
  }
}

function sayDamaged({ numbers }: { numbers: readonly number[] }): string {
  const [one, be, them] = numbers.length === 1 ? ['Picture', 'it', 'it'] : ['Pictures', 'each', 'them']
  return `${one} ${sayNumbers(numbers)} could not be read: hold the picture before ${be}, or leave ${them} out.`
}

/** A stored frame under the mode it is taken to have. */
export function taken(frame: Frame, mode: AlphaMode): Frame {
  if (frame.alpha.mode === 'none') return frame
  return mode.mode === 'none' ? readAs(frame, mode) : { ...frame, alpha: mode }
}

/** A stored source as it is taken: its frames in the order, and under the mode, that its description says. */
export function interpret(opened: Source, spec: FilesSpec): Source {
  const { each } = opened
  const stored = spec.interpretation.eachPicture && each ? { ...opened, frame: each } : opened
  const facts = interpretedFacts(stored.facts, spec)
  const mode = modeTaken(facts.claim, spec.interpretation)
  // as many frames as files may still be others: one held in the place of one that cannot be read
  const moved = facts.frames !== stored.facts.frames || !!spec.interpretation.damaged?.as
  const order = spec.numbers && moved ? frameOrder(spec) : null
  const place = (index: number): number => order?.at(index) ?? index
  const { encoded } = stored
  return {
    facts,
    frame: async (index, signal) => taken(await stored.frame(place(index), signal), mode),
    ...(encoded && stored === opened ? { encoded: (index: number) => encoded(place(index)) } : {}),
    close: () => stored.close()
  }
}
