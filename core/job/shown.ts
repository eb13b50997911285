/** Which sources of a job a scene shows: the same for the page and for a job that is run on the command line. */
import { clipsOf } from '../draw/scene/clips'
import type { Scene } from '../draw/scene/scene'
import type { FilesSpec, SceneSpec, SourceSpec } from '../source/source'
import type { Job, JobSource } from './job'

type Sources = Job['sources']

/** The source that a clip shows: by its id, or, in a scene that came from elsewhere, by its name. */
export const shownBy = (sources: Sources, { source, title }: { source: string; title: string }): JobSource | null =>
  sources[source] ?? Object.values(sources).find(({ name }) => name === title) ?? null

/** Ids of the sources that a scene shows, and of those that they show, each once. */
export function shownIn(sources: Sources, scene: Scene, found = new Set<string>()): Set<string> {
  for (const clip of clipsOf(scene)) {
    const other = shownBy(sources, clip)
    if (!other || found.has(other.id)) continue
    found.add(other.id)
    if (other.scene) shownIn(sources, other.scene, found)
  }
  return found
}

/**
 * The sources that a scene shows, by the names it gives them. Those that show, in the end, the source `own` are not
 * among them: the scene then says that they are not at hand.
 */
export function shownOf(sources: Sources, scene: Scene, own: string | null): Map<string, JobSource> {
  const shown = new Map<string, JobSource>()
  for (const clip of clipsOf(scene)) {
    const other = shownBy(sources, clip)
    const circles = other && own && (other.id === own || (other.scene && shownIn(sources, other.scene).has(own)))
    if (other && !circles) shown.set(clip.source, other)
  }
  return shown
}

/** A scene as workers open it, with what it shows; its file alone where that is nothing. */
export const withShown = (of: FilesSpec, others: Readonly<Record<string, SourceSpec>>): FilesSpec | SceneSpec =>
  Object.keys(others).length ? { kind: 'scene', id: of.id, name: of.name, of, others } : of
