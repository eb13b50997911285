/** The outline of a sound, to be drawn: the lowest and highest sample of each stretch. */
import type { ByteReader } from '../../base/files/file'
import { pcmOf } from './feed'
import type { SoundForm, SoundTrack } from '../../source/sound'

/** Samples looked at together. */
const STRETCH = 1 << 17

/**
 * `columns` pairs of lowest and highest, -1 to 1, over all channels; the last columns are silent where the sound ends
 * before `length`
 * samples. Uncompressed sound only. Memory is bounded by a stretch.
 */
export async function peaksOf(
  reader: ByteReader,
  track: SoundTrack,
  form: SoundForm,
  { columns, length }: { columns: number; length: number }
): Promise<Float32Array> {
  const peaks = new Float32Array(2 * columns)
  const width = form.bits / 8
  for (let at = 0; at < form.samples; at += STRETCH) {
    const samples = Math.min(STRETCH, form.samples - at)
    const bytes = await pcmOf(reader, track, form.channels, { from: track.lead + form.from + at, samples })
    for (let s = 0, i = 0; s < samples; s++) {
      const column = 2 * Math.min(columns - 1, Math.floor(((at + s) * columns) / length))
      for (let c = 0; c < form.channels; c++, i += width) {
        // the two highest bytes tell all that can be seen
        const value = (((bytes[i + width - 1]! << 24) >> 16) | bytes[i + width - 2]!) / 32768
        if (value < peaks[column]!) peaks[column] = value
        if (value > peaks[column + 1]!) peaks[column + 1] = value
      }
    }
  }
  return peaks
}
