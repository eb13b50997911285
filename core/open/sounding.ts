/** The sound of a source, opened apart from its pictures. */
import { containers } from '../media/containers'
import { formatById } from './registry'
import type { Host } from '../frame/host'
import type { ByteReader } from '../base/files/file'
import { soundFeed } from '../media/sound/feed'
import type { SoundFeed, SoundForm, SoundTrack } from '../source/sound'
import { beneath, type SourceSpec } from '../source/source'

/**
 * The tracks of sound in a source's first file, and that file, which the caller closes. Null where it can hold none.
 */
export async function soundTracksOf(
  spec: SourceSpec,
  host: Host
): Promise<{ reader: ByteReader; tracks: SoundTrack[] } | null> {
  const { container } = formatById(beneath(spec).format)
  const known = containers.find(({ id }) => id === container)
  if (!known) return null
  const reader = await host.openFile(beneath(spec).files[0]!)
  try {
    return { reader, tracks: (await known.demux(reader)).sounds }
  } catch (error) {
    await reader.close()
    throw error
  }
}

/** One of them by its place, the first where none is said, and the file. Null where it is not there. */
export async function soundTrackOf(
  spec: SourceSpec,
  host: Host,
  place = 0
): Promise<{ reader: ByteReader; track: SoundTrack } | null> {
  const found = await soundTracksOf(spec, host)
  const track = found?.tracks[place]
  if (found && track) return { reader: found.reader, track }
  await found?.reader.close()
  return null
}

/**
 * The sounds that a pour announced, ready to be read, and their forms with what only the packets tell; those that are
 * not there any more are not among them. Each feed closes what it reads by.
 */
export async function openSounds(
  spec: SourceSpec,
  forms: readonly SoundForm[],
  host: Host
): Promise<{ form: SoundForm; feed: SoundFeed }[]> {
  if (forms.length === 0) return []
  const found = await soundTracksOf(spec, host)
  if (!found) return []
  const opened: { form: SoundForm; feed: SoundFeed }[] = []
  try {
    for (const form of forms) {
      const track = found.tracks[form.track ?? 0]
      if (track) opened.push(soundFeed(await host.openFile(beneath(spec).files[0]!), track, form))
    }
  } catch (error) {
    await Promise.all(opened.map(({ feed }) => feed.close()))
    throw error
  } finally {
    await found.reader.close()
  }
  return opened
}
