/**
 * From a source of the job to the description that workers open: its files as it takes them, what a scene shows, what
 * its steps look at. The same for the page and for a job that is run on the command line.
 */
import { clipsOf } from '../draw/scene/clips'
import type { Scene } from '../draw/scene/scene'
import type { FileRef } from '../base/files/file'
import { sceneFile } from '../draw/scene/as-file'
import type { AlphaMode } from '../frame/frame'
import { othersOf, type Step } from '../prepare/preparation'
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

/** Files of a source as they are at hand: of a sequence with the numbers of its pictures. */
export interface HeldFiles {
  format: string
  files: readonly FileRef[]
  numbers: readonly number[] | null
}

/** The file of a scene, which its description makes; null for any other source. */
export const heldScene = ({ scene }: JobSource): HeldFiles | null =>
  scene ? { format: 'scene', files: [sceneFile(scene).file], numbers: null } : null

/**
 * A source as its files are opened, before any preparation and without what a scene shows; `held` are its files, which
 * a scene needs none of. What pictures of a sequence are brought to is what the job notes of them.
 */
export function filesSpecOf(source: JobSource, held: HeldFiles): FilesSpec {
  const { format, files, numbers } = heldScene(source) ?? held
  const { bitDepth, claim } = source.facts
  return {
    kind: 'files',
    // a scene is another with every edit
    id: source.scene ? `${source.id} ${sceneFile(source.scene).stamp}` : source.id,
    name: source.name,
    format,
    files,
    numbers,
    common: numbers ? { bitDepth, claim } : null,
    interpretation: source.interpretation,
    findings: source.findings
  }
}

/** The same before anything was decided of it but its mode: the samples as they are stored. */
export const asStored = (spec: FilesSpec): FilesSpec => ({
  ...spec,
  interpretation: { ...spec.interpretation, rate: null, rateFrom: null },
  findings: []
})

/** The same, its samples taken to be of this mode; null leaves that to its format. */
export const inMode = (spec: FilesSpec, alpha: AlphaMode | null): FilesSpec => ({
  ...spec,
  interpretation: { ...spec.interpretation, alpha }
})

/**
 * Sources that steps of the source `own` look at. They are taken before their own preparation, so that none waits for
 * itself.
 */
export const othersIn = (sources: Sources, own: string, steps: readonly Step[]): JobSource[] =>
  [...othersOf(steps)].flatMap(id => (id === own ? [] : (sources[id] ?? [])))
