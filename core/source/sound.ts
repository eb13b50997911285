/**
 * Sound beside pictures: what a file has, and how it is carried. Of uncompressed sound whole samples are carried,
 * trimmed to the frames delivered; of AAC its packets as they are.
 */
import { z } from 'zod'
import { secondsOf, type Rate } from '../base/rate'

/** What is known of a source's sound. `samples` are counted for one channel; null where the file does not say. */
export const SoundFacts = z.object({
  /** In a technician's words: "PCM 16 bit", "AAC". */
  codec: z.string(),
  /** What its track is called; empty where it has no name. */
  name: z.string().default(''),
  rate: z.number().int().min(1).max(10_000_000).nullable(),
  channels: z.number().int().min(1).max(1024).nullable(),
  samples: z.number().int().min(0).nullable(),
  /** Whole numbers, floats, packets of AAC, or what is not carried. */
  coding: z.enum(['pcm', 'float', 'aac', 'other']),
  /** Of samples: bits of one once carried; 8 become 16. */
  bits: z.union([z.literal(16), z.literal(24), z.literal(32)]).nullable(),
  /** The sample at which the first frame begins: above 0 where frames before it are left out. */
  begins: z.number().int().min(0).default(0),
  /** Samples that are heard before the first picture, and go with none. */
  early: z.number().int().min(0).default(0),
  /** Why it cannot be carried; null where it can. */
  leftOut: z.string().nullable()
})
export type SoundFacts = z.infer<typeof SoundFacts>

/** How uncompressed samples are stored. */
export interface PcmLayout {
  bits: 8 | 16 | 24 | 32
  bigEndian: boolean
  /** Codes from 0, silence in the middle; only ever of 8 bits. */
  unsigned: boolean
  /** IEEE 754 numbers, of 32 bits. */
  float?: boolean
}

export interface SoundPacket {
  offset: number
  size: number
  /** Samples of one channel that it holds. */
  samples: number
}

export interface SoundTrack {
  facts: SoundFacts
  coding: SoundFacts['coding']
  /** Of samples. */
  layout: PcmLayout | null
  /** Of AAC, its AudioSpecificConfig (ISO/IEC 14496-3, 1.6.2.1). */
  config: Uint8Array
  packets: SoundPacket[]
  /** Samples at its beginning that lie before the first frame; below 0 where it begins so much later. */
  lead: number
}

/**
 * The sound of a delivery. What only the packets of a file tell, `lead`, `stored` and `config`, is filled in when it is
 * opened.
 */
export interface SoundForm {
  /** Which of the source's tracks of sound it is, from 0; the first where it does not say. */
  track?: number
  /** What the track is called; empty or absent where it has no name. */
  name?: string
  /** The sample of the source's sound that is heard first. */
  from: number
  coding: 'pcm' | 'float' | 'aac'
  rate: number
  channels: number
  /** Of samples: bits of one; whole numbers are signed. */
  bits: 16 | 24 | 32
  /** Samples of one channel that are heard. */
  samples: number
  /**
   * Of AAC: samples of its packets before those that are heard, samples of silence before its first packet, and samples
   * of all its packets.
   */
  lead: number
  delay?: number
  stored: number
  config: Uint8Array
}

/** Whether sound is stored sample by sample. */
export const isSampled = ({ coding }: { coding: SoundFacts['coding'] }): boolean =>
  coding === 'pcm' || coding === 'float'

/** Sound on its way into a file. PCM comes as signed little-endian codes of the form's bits. */
export interface SoundFeed {
  /** All sound not given yet that begins before sample `until`; AAC packet by packet, PCM in one piece. */
  upTo(until: number): Promise<{ bytes: Uint8Array; samples: number }[]>
  close(): Promise<void>
}

/** Samples before the beginning of a frame, counted from 0; rounded to the nearest. */
export function samplesBefore(frame: number, [n, d]: Rate, soundRate: number): number {
  return Math.round((frame * d * soundRate) / n)
}

/** What facts and deliveries hold of sound: its first track, and those beyond it. */
export interface Heard<T> {
  sound?: T | null | undefined
  moreSounds?: readonly T[] | undefined
}

/** All tracks, in their order. */
export const soundsOf = <T>({ sound, moreSounds }: Heard<T>): T[] => (sound ? [sound, ...(moreSounds ?? [])] : [])

/** Tracks as facts hold them. */
export function soundFacts<T>(sounds: readonly T[]): { sound: T | null; moreSounds?: T[] } {
  const [sound, ...moreSounds] = sounds
  return { sound: sound ?? null, ...(moreSounds.length ? { moreSounds } : {}) }
}

/** "PCM 16 bit, 2 channels, 48000 Hz, 2.5 s". */
export function saySound({ codec, channels, rate, samples, name }: Said): string {
  return [
    name ? `“${name}”: ${codec}` : codec,
    channels ? `${channels} ${channels === 1 ? 'channel' : 'channels'}` : null,
    rate ? `${rate} Hz` : null,
    rate && samples !== null ? `${Math.round(secondsOf(samples, [rate, 1]) * 100) / 100} s` : null
  ]
    .filter(Boolean)
    .join(', ')
}

type Said = Pick<SoundFacts, 'codec' | 'channels' | 'rate' | 'samples'> & { name?: string }

/** What earlier versions kept of a sound: words alone. */
export function soundOfWords(words: string): SoundFacts {
  return silentFacts(words, 'an earlier version read it, and did not note how it is coded')
}

/** Why sound is left out where a step of the preparation says so: it is as asked. */
export const LEFT_OUT_BY_STEP = 'the preparation leaves it out'

/** Sound that is known of and cannot be carried. */
export function silentFacts(codec: string, leftOut: string): SoundFacts {
  return {
    codec,
    name: '',
    rate: null,
    channels: null,
    samples: null,
    coding: 'other',
    bits: null,
    begins: 0,
    early: 0,
    leftOut
  }
}

/** A track of sound that cannot be carried. */
export function silentTrack(codec: string, leftOut: string): SoundTrack {
  const facts = silentFacts(codec, leftOut)
  return { facts, coding: 'other', layout: null, config: new Uint8Array(0), packets: [], lead: 0 }
}

/** Frames between two stretches of sound in a file: half a second. */
export const soundStride = ([n, d]: Rate): number => Math.max(1, Math.round(n / d / 2))

/** The sound that goes with frames `from` to `from + frames` of a clip, where it can be carried at all. */
export function soundForm(sound: SoundFacts, rate: Rate, from: number, frames: number): SoundForm | null {
  if (sound.leftOut !== null || sound.coding === 'other' || !sound.rate || !sound.channels) return null
  const first = sound.begins + samplesBefore(from, rate, sound.rate)
  const end = sound.begins + samplesBefore(from + frames, rate, sound.rate)
  const samples = Math.min(end, sound.begins + (sound.samples ?? 0)) - first
  if (samples <= 0) return null
  return {
    ...(sound.name ? { name: sound.name } : {}),
    coding: sound.coding,
    from: first,
    rate: sound.rate,
    channels: sound.channels,
    bits: sound.bits ?? 16,
    samples,
    lead: 0,
    stored: samples,
    config: new Uint8Array(0)
  }
}

/**
 * The sound of a clip whose frames are now those of `shown`, by their numbers before: cut where they follow one another
 * at the same speed, and left out where they do not.
 */
export function soundOfFrames(
  sound: SoundFacts,
  shown: readonly number[],
  before: { frames: number; rate: Rate | null },
  sameSpeed: boolean
): SoundFacts {
  if (sound.leftOut !== null) return sound
  const inRow = shown.every((frame, i) => i === 0 || frame === shown[i - 1]! + 1)
  if (!sameSpeed || !inRow || !before.rate || !sound.rate)
    return { ...sound, leftOut: 'its frames are shown in another order or at another speed' }
  const first = samplesBefore(shown[0] ?? 0, before.rate, sound.rate)
  const end = samplesBefore((shown[0] ?? 0) + shown.length, before.rate, sound.rate)
  const whole = sound.samples ?? 0
  // the last frame takes what sound there is beyond it
  const samples = Math.max(0, (shown.at(-1) === before.frames - 1 ? whole : Math.min(end, whole)) - first)
  return { ...sound, begins: sound.begins + first, samples }
}
