/** The proof of sound: every sample of PCM, every packet of AAC, and whether it begins with the first frame. */
import { PourError } from '../../base/errors'
import type { Host } from '../../frame/host'
import { pcmOf, soundFeed } from '../../media/sound/feed'
import { isSampled, saySound, silentFacts, type SoundForm, type SoundTrack } from '../../source/sound'
import { soundTracksOf } from '../../open/sounding'
import type { SourceSpec, FilesSpec } from '../../source/source'

/** What came of the sound: `error` is "none" where all is right. */
export interface SoundProof {
  asked: string
  found: string
  error: string
  right: boolean
}

/** Samples held against each other at once. */
const STRETCH = 1 << 18

interface Side {
  reader: { close(): Promise<void> } & Parameters<typeof pcmOf>[0]
  track: SoundTrack
}

const factsOf = (form: SoundForm): string =>
  saySound({
    ...silentFacts(
      form.coding === 'aac' ? 'AAC' : `PCM ${form.bits} bit${form.coding === 'float' ? ' float' : ''}`,
      ''
    ),
    name: form.name ?? '',
    rate: form.rate,
    channels: form.channels,
    samples: form.samples
  })

/** Samples that differ, and the first of them. */
async function differing(source: Side, delivered: Side, form: SoundForm): Promise<{ count: number; first: number }> {
  const frame = (form.channels * form.bits) / 8
  let count = 0
  let first = -1
  for (let at = 0; at < form.samples; at += STRETCH) {
    const samples = Math.min(STRETCH, form.samples - at)
    const due = await pcmOf(source.reader, source.track, form.channels, {
      from: source.track.lead + form.from + at,
      samples
    })
    const found = await pcmOf(delivered.reader, delivered.track, form.channels, {
      from: delivered.track.lead + at,
      samples
    })
    for (let s = 0; s < samples; s++) {
      let same = due.length === found.length
      for (let i = s * frame; same && i < (s + 1) * frame; i++) same = due[i] === found[i]
      if (same) continue
      if (first < 0) first = at + s
      count++
    }
  }
  return { count, first }
}

/** Packets of AAC that differ, are missing or are too many. */
async function packetsApart(source: Side, delivered: Side, form: SoundForm): Promise<number> {
  const due = await soundFeed(source.reader, source.track, form).feed.upTo(Infinity)
  const found = await soundFeed(delivered.reader, delivered.track, {
    ...form,
    from: -delivered.track.lead,
    samples: Infinity
  }).feed.upTo(Infinity)
  const apart = due.filter(({ bytes }, i) => {
    const other = found[i]?.bytes
    return !other || other.length !== bytes.length || bytes.some((byte, n) => byte !== other[n])
  })
  return apart.length + Math.max(0, found.length - due.length)
}

async function judged(source: Side, delivered: Side, form: SoundForm): Promise<Omit<SoundProof, 'asked'>> {
  const { facts } = delivered.track
  const found = saySound(facts)
  const wrong = (error: string): Omit<SoundProof, 'asked'> => ({ found, error, right: false })
  if (facts.coding !== form.coding || facts.rate !== form.rate || facts.channels !== form.channels)
    return wrong('of another kind')
  if (isSampled(form)) {
    if (facts.bits !== form.bits) return wrong('of another depth')
    if (facts.samples !== form.samples)
      return wrong(
        `${Math.abs((facts.samples ?? 0) - form.samples)} samples ` +
          `${(facts.samples ?? 0) < form.samples ? 'missing' : 'too many'}`
      )
    if (delivered.track.lead !== 0) return wrong(`${Math.abs(delivered.track.lead)} samples out of step`)
    const { count, first } = await differing(source, delivered, form)
    return count === 0
      ? { found, error: 'none: every sample is equal', right: true }
      : wrong(
          `${count.toLocaleString('en')} samples differ, the first at ` +
            `${Math.round((first / form.rate) * 1000) / 1000} s`
        )
  }
  const due = soundFeed(source.reader, source.track, form).form
  // in a film too long to count in units that frames and samples share, what begins later is told to the nearest sample
  const lead = due.lead - (due.delay ?? 0)
  const off = Math.abs(lead - delivered.track.lead)
  if (off > (due.delay ? 1 : 0)) return wrong(`${off} samples out of step`)
  const apart = await packetsApart(source, delivered, form)
  return apart === 0 ? { found, error: 'none: every packet is equal', right: true } : wrong(`${apart} packets differ`)
}

/** Holds one delivered track against the source's. What cannot be read of the delivery is a fault of it. */
async function proveTrack(source: Side | null, made: Side | null, form: SoundForm): Promise<SoundProof> {
  const asked = factsOf(form)
  if (!source) return { asked, found: '', error: 'the source has no sound any more', right: false }
  if (!made) return { asked, found: 'none', error: 'it is missing', right: false }
  try {
    return { asked, ...(await judged(source, made, form)) }
  } catch (error) {
    if (!(error instanceof PourError) || error.kind !== 'unreadable') throw error
    return { asked, found: saySound(made.track.facts), error: error.message, right: false }
  }
}

/**
 * Holds the delivered sound, track by track in their order, against the source's; null where none was to go with it.
 * What is told of several is what went wrong, or that all is right.
 */
export async function proveSounds(
  reference: SourceSpec,
  delivered: FilesSpec,
  forms: readonly SoundForm[],
  host: Host
): Promise<SoundProof | null> {
  if (forms.length === 0) return null
  const proofs: SoundProof[] = []
  const source = await soundTracksOf(reference, host)
  try {
    const made = await soundTracksOf(delivered, host)
    const side = (from: typeof source, place: number): Side | null => {
      const track = from?.tracks[place]
      return from && track ? { reader: from.reader, track } : null
    }
    try {
      for (const [place, form] of forms.entries())
        proofs.push(await proveTrack(side(source, form.track ?? 0), side(made, place), form))
    } finally {
      await made?.reader.close()
    }
  } finally {
    await source?.reader.close()
  }
  if (proofs.length === 1) return proofs[0]!
  const wrong = proofs.flatMap(({ right, error }, n) => (right ? [] : [`track ${n + 1}: ${error}`]))
  return {
    asked: proofs.map(({ asked }) => asked).join('; '),
    found: proofs.map(({ found }) => found).join('; '),
    error: wrong.length ? wrong.join('; ') : `none: all ${proofs.length} tracks are as they were`,
    right: wrong.length === 0
  }
}
