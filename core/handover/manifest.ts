/**
 * The manifest of a hand-over: what was delivered, in figures, so that a receiver, or a program, can tell whether
 * anything has changed since. Its JSON Schema is published as `docs/handover.schema.json`.
 */
import { z } from 'zod'
import { AlphaMode, Depth } from '../frame/frame'
import { LedgerLine } from '../ledger/ledger'
import { Verdict } from '../proof/report'
import { Rate } from '../rate'

/** 2: fingerprints of 128 bits. */
export const MANIFEST_VERSION = 2

export const MANIFEST_NAME = 'hand-over.json'

export const DeliveredFile = z.object({
  /** Path within the hand-over, with forward slashes. */
  path: z.string().min(1).max(500),
  bytes: z.number().int().min(0),
  sha256: z.string().regex(/^[0-9a-f]{64}$/)
})
export type DeliveredFile = z.infer<typeof DeliveredFile>

export const Delivery = z.object({
  name: z.string(),
  source: z.string(),
  /** Id of the format that reads it. */
  format: z.string(),
  /** Container and codec in words. */
  kind: z.string(),
  files: z.array(DeliveredFile).min(1),
  /** Of a fill and key: how many of the files, from the first, are the fill. */
  fillFiles: z.number().int().min(1).nullable(),
  width: z.number().int().min(1),
  height: z.number().int().min(1),
  frames: z.number().int().min(1),
  /** Numerator and denominator; null where nothing is known. */
  rate: Rate.nullable(),
  depth: Depth,
  alpha: AlphaMode,
  /** What the file itself says of its alpha. */
  says: z.string(),
  /** Colour tags in words; null when the file has none. */
  colour: z.string().nullable(),
  plays: z.number().int().min(0).nullable(),
  verdict: Verdict,
  sentence: z.string(),
  /** What became of the source on its way to the file. */
  ledger: z.array(LedgerLine).default([]),
  /** 128 bits over the 16-bit codes of each frame as read back, in hexadecimal: equal for equal pictures. */
  fingerprints: z.array(z.string().regex(/^[0-9a-f]{32}$/))
})
export type Delivery = z.infer<typeof Delivery>

export const Manifest = z.object({
  pour: z.literal('hand-over'),
  version: z.literal(MANIFEST_VERSION),
  job: z.string(),
  /** When it was made, ISO 8601. */
  made: z.iso.datetime(),
  deliveries: z.array(Delivery).min(1)
})
export type Manifest = z.infer<typeof Manifest>

/** The manifest's JSON Schema (draft 2020-12), as published. */
export function manifestSchema(): object {
  return { title: 'Manifest of a hand-over', ...z.toJSONSchema(Manifest) }
}

/** The checksums of all files in the form that checking programs read: sum, two blanks, path. */
export function checksums(manifest: Manifest): string {
  return manifest.deliveries.flatMap(d => d.files.map(f => `${f.sha256}  ${f.path}\n`)).join('')
}
