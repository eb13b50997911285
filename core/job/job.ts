/** A job: sources, outlets, and what was decided about them. Plain data; files and results are kept apart from it. */
import { z } from 'zod'
import { Preparation, Step } from '../prepare/preparation'
import { Marks } from './marks'
import { Scene } from '../draw/scene/scene'
import { Outlet } from './outlet/outlet'
import { Receiver } from './outlet/receiver'
import { Interpretation, SourceFacts, Finding } from '../source/source'

export const JobSource = z.object({
  id: z.string(),
  name: z.string(),
  facts: SourceFacts,
  findings: z.array(Finding),
  interpretation: Interpretation,
  marks: Marks.nullable(),
  /** What is done to its frames before they are poured. */
  steps: z.array(Step).default([]),
  /** The span's name, where this is a named range kept of another source. */
  span: z.string().min(1).max(60).optional(),
  /** What it is rendered from, where it is a scene; its files are made of it. */
  scene: Scene.optional()
})
export type JobSource = z.infer<typeof JobSource>

export const Job = z.object({
  version: z.literal(1),
  id: z.string(),
  name: z.string(),
  sources: z.record(z.string(), JobSource),
  sourceOrder: z.array(z.string()),
  outlets: z.record(z.string(), Outlet),
  outletOrder: z.array(z.string()),
  /** Preparations kept under a name. */
  preparations: z.array(Preparation).default([]),
  /** What the receiver of all of it demands. */
  receiver: Receiver.nullable().default(null),
  /** The source that stands behind the others in the viewer. */
  backdrop: z.string().optional(),
  /** By cell, demands that were waived by name: what is delivered does not meet them, and is to go out all the same. */
  waived: z.record(z.string(), z.array(z.string().max(20)).max(20)).default({})
})
export type Job = z.infer<typeof Job>

/** A job without sources or outlets. */
export function emptyJob(id: string, name: string): Job {
  return {
    version: 1,
    id,
    name,
    sources: {},
    sourceOrder: [],
    outlets: {},
    outletOrder: [],
    preparations: [],
    receiver: null,
    waived: {}
  }
}

/** A cell's key: one source through one outlet. */
export function cellKey(sourceId: string, outletId: string): string {
  return `${sourceId}:${outletId}`
}

/** The source and the outlet that a cell's key names. */
export function splitCell(key: string): { sourceId: string; outletId: string } {
  const [sourceId, outletId] = key.split(':') as [string, string]
  return { sourceId, outletId }
}
