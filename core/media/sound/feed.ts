/** Sound out of one file on its way into another. */
import { unreadable } from '../../base/errors'
import type { ByteReader } from '../../base/files/file'
import { carriedPcm } from './pcm'
import { isSampled, type SoundFeed, type SoundForm, type SoundTrack } from '../../source/sound'

/** Bytes read at once. */
const MOST = 1 << 20

/** The samples [from, from + samples) of one channel of PCM, as it is carried; silence where the file has none. */
export async function pcmOf(
  reader: ByteReader,
  track: SoundTrack,
  channels: number,
  { from, samples }: { from: number; samples: number }
): Promise<Uint8Array> {
  const layout = track.layout!
  const stored = (channels * layout.bits) / 8
  const carried = (channels * (layout.bits === 8 ? 16 : layout.bits)) / 8
  const out = new Uint8Array(samples * carried)
  let at = 0
  for (const packet of track.packets) {
    const first = Math.max(from, at)
    const end = Math.min(from + samples, at + packet.samples)
    for (let s = first; s < end;) {
      const count = Math.min(end - s, Math.max(1, Math.floor(MOST / stored)))
      const bytes = await reader.read(packet.offset + (s - at) * stored, count * stored)
      if (bytes.length < count * stored)
        throw unreadable(reader.name, 'the sound', 'it ends early; the film was cut short')
      out.set(carriedPcm(bytes, layout), (s - from) * carried)
      s += count
    }
    at += packet.samples
    if (at >= from + samples) break
  }
  return out
}

function pcmFeed(reader: ByteReader, track: SoundTrack, form: SoundForm): SoundFeed {
  let given = 0
  return {
    async upTo(until) {
      const end = Math.min(until, form.samples)
      if (end <= given) return []
      const samples = end - given
      const bytes = await pcmOf(reader, track, form.channels, { from: track.lead + form.from + given, samples })
      given = end
      return [{ bytes, samples }]
    },
    close: () => reader.close()
  }
}

/** The packets of AAC that overlap what is to be heard, whole, and where hearing begins in them, or how much later. */
function aacCut(track: SoundTrack, form: SoundForm) {
  const asked = track.lead + form.from
  // sound that begins later than what is asked for is silent until then
  const delay = Math.max(0, -asked)
  const from = Math.max(0, asked)
  const heard = form.samples - delay
  let at = 0
  let first = 0
  let begins = 0
  let end = 0
  for (const [i, packet] of track.packets.entries()) {
    if (at <= from) [first, begins] = [i, at]
    if (at < from + heard) end = i + 1
    at += packet.samples
  }
  // a decoder needs the packet before to make the first one whole (ISO/IEC 14496-3, overlap of windows)
  if (first > 0) {
    first--
    begins -= track.packets[first]!.samples
  }
  const stored = track.packets.slice(first, end).reduce((sum, packet) => sum + packet.samples, 0)
  return { first, end, lead: from - begins, delay, stored }
}

/** The sound of `form` from a track, and the form with what the packets tell. The feed closes `reader`. */
export function soundFeed(
  reader: ByteReader,
  track: SoundTrack,
  form: SoundForm
): { form: SoundForm; feed: SoundFeed } {
  if (isSampled(form)) return { form, feed: pcmFeed(reader, track, form) }
  const { first, end, lead, delay, stored } = aacCut(track, form)
  let next = first
  let at = delay - lead
  const feed: SoundFeed = {
    async upTo(until) {
      const parts: { bytes: Uint8Array; samples: number }[] = []
      for (; next < end && at < until; next++) {
        const { offset, size, samples } = track.packets[next]!
        const bytes = await reader.read(offset, size)
        if (bytes.length < size) throw unreadable(reader.name, 'the sound', 'it ends early; the film was cut short')
        parts.push({ bytes, samples })
        at += samples
      }
      return parts
    },
    close: () => reader.close()
  }
  return { form: { ...form, lead, delay, stored, config: track.config }, feed }
}
