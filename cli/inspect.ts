/** `inspect PATH`: facts and findings. */
import { z } from 'zod'
import { AlphaAnswer } from '../core/judge/examine/mode'
import { FieldOrder, AlphaClaim, Finding } from '../core/source/source'
import { saySound, SoundFacts, soundsOf } from '../core/source/sound'
import { Depth } from '../core/frame/frame'
import { LightLevels, sayLevels } from '../core/source/light-levels'
import { Rate, rateFraction } from '../core/base/rate'
import { examineSource } from '../core/judge/examine/examine-source'
import { bringIn, type Brought } from './bring-in'
import type { Call } from './call'
import { EXIT } from './exit'

const Said = SoundFacts.pick({ codec: true, rate: true, channels: true, samples: true })

const Inspected = z.object({
  name: z.string(),
  format: z.string(),
  kind: z.string(),
  width: z.number(),
  height: z.number(),
  frames: z.number(),
  rate: Rate.nullable(),
  rateFrom: z.string(),
  seconds: z.number().nullable(),
  bitDepth: Depth,
  alpha: AlphaAnswer.omit({ evidence: true }).extend({ evidence: AlphaAnswer.shape.evidence, claim: AlphaClaim }),
  alphaLevels: z.number(),
  colour: z.string().nullable(),
  levels: LightLevels.nullable(),
  timecode: z.string().nullable(),
  /** Of the first track; null where there is none. */
  sound: Said.nullable(),
  /** Every track, in their order. */
  sounds: z.array(Said.extend({ name: z.string(), leftOut: z.string().nullable() })),
  fields: FieldOrder.nullable(),
  pixelAspect: z.tuple([z.number(), z.number()]),
  plays: z.number().nullable(),
  bytes: z.number(),
  findings: z.array(Finding)
})
type Inspected = z.infer<typeof Inspected>

/** The first source's fields stand at the top; `sources` lists all, and `findings` includes what was left out. */
export const InspectOutput = Inspected.extend({ sources: z.array(Inspected) })

async function inspectOne(brought: Brought, call: Call): Promise<Inspected> {
  const { facts } = brought
  const examination = await examineSource(brought.spec, facts, {
    pool: call.pool,
    onProgress: done => call.progress('Looking', done, facts.frames)
  })
  return {
    name: facts.name,
    format: facts.format,
    kind: facts.kind,
    width: facts.width,
    height: facts.height,
    frames: facts.frames,
    rate: facts.rate,
    rateFrom: facts.rateFrom,
    seconds: facts.rate ? (facts.frames * facts.rate[1]) / facts.rate[0] : null,
    bitDepth: facts.bitDepth,
    alpha: { ...examination.alpha, claim: facts.claim },
    alphaLevels: examination.levels,
    colour: facts.colour,
    levels: facts.levels ?? null,
    timecode: facts.timecode ?? null,
    sound: facts.sound ?? null,
    sounds: soundsOf(facts),
    fields: facts.fields ?? null,
    pixelAspect: facts.pixelAspect,
    plays: facts.plays,
    bytes: facts.bytes,
    findings: examination.findings
  }
}

function say(i: Inspected): string {
  const lines = [
    i.name,
    `  ${i.kind}, ${i.width}x${i.height}, ${i.frames} ${i.frames === 1 ? 'frame' : 'frames'}, ` +
      `${i.rate ? `${rateFraction(i.rate)} f/s (from the ${i.rateFrom})` : 'no rate'}, ${i.bitDepth} bit`,
    `  alpha: ${i.alpha.mode}${i.alpha.matte ? ` on ${i.alpha.matte}` : ''}, ` +
      `${Math.round(i.alpha.confidence * 100)} % sure, ${i.alphaLevels} levels. ${i.alpha.evidence.sentence}`,
    `  the file says: ${i.alpha.claim.says}`,
    ...(i.colour ? [`  colour: ${i.colour}${i.levels ? `; ${sayLevels(i.levels)}` : ''}`] : []),
    ...i.sounds.map(track => `  sound: ${saySound(track)}`)
  ]
  for (const finding of i.findings) lines.push(`  ${finding.severity}: ${finding.sentence}`)
  return lines.join('\n')
}

export async function inspect(location: string, call: Call): Promise<number> {
  const all = await bringIn(location, call)
  const sources: Inspected[] = []
  for (const brought of all) sources.push(await inspectOne(brought, call))
  sources.sort((a, b) => b.frames - a.frames)
  const left = all.intake?.findings ?? []
  if (call.json)
    call.print(
      JSON.stringify(
        InspectOutput.parse({ ...sources[0], findings: [...sources[0]!.findings, ...left], sources }),
        null,
        2
      )
    )
  else {
    for (const source of sources) call.print(say(source))
    for (const finding of left) call.print(`${finding.severity}: ${finding.sentence}`)
  }
  return EXIT.done
}
