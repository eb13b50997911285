/** The sound of a source, opened apart from its pictures. */
import { containers } from '../containers'
import { formatById } from '../formats/registry'
import type { Host } from '../host'
import type { ByteReader } from '../files/file'
import { soundFeed } from '../sound/feed'
import type { SoundFeed, SoundForm, SoundTrack } from '../sound/sound'
import { beneath, type SourceSpec } from './source'

/**
 * A track of sound in a source's first file, by its place among them, and that file, which the caller closes. Null where
 * there is none.
 */
export async function soundTrackOf(
  spec: SourceSpec,
  host: Host,
  place = 0
): Promise<{ reader: ByteReader; track: SoundTrack } | null> {
  const { container } = formatById(beneath(spec).format)
  const known = containers.find(({ id }) => id === container)
  if (!known) return null
  const reader = await host.openFile(beneath(spec).files[0]!)
  try {
    const track = (await known.demux(reader)).sounds[place]
    if (track) return { reader, track }
  } catch (error) {
    await reader.close()
    throw error
  }
  await reader.close()
  return null
}

/**
 * The sound that a pour announced, ready to be read, and its form with what only the packets tell. Null where it is not
 * there.
 */
export async function openSound(
  spec: SourceSpec,
  form: SoundForm,
  host: Host
): Promise<{ form: SoundForm; feed: SoundFeed } | null> {
  const found = await soundTrackOf(spec, host, form.track)
  return found ? soundFeed(found.reader, found.track, form) : null
}
