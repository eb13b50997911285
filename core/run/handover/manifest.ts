/**
 * The manifest of a hand-over: what was delivered, in figures, so that a receiver, or a program, can tell whether
 * anything has changed since. Its JSON Schema is published as `docs/handover.schema.json`.
 */
import { z } from 'zod'
import { Halves } from '../../frame/stacked'
import { AlphaMode, Depth } from '../../frame/frame'
import { LedgerLine } from '../../judge/ledger/ledger'
import { Verdict } from '../../judge/proof/grades'
import { Rate } from '../../base/rate'

/** 2: fingerprints of 128 bits. 3: sums of the papers. */
export const MANIFEST_VERSION = 3
export const SUMS_NAME = 'checksums.sha256'

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
  /** How its picture is made up, where it is two halves of colour and alpha. */
  stacked: Halves.optional(),
  /** Numerator and denominator; null where nothing is known. */
  rate: Rate.nullable(),
  depth: Depth,
  alpha: AlphaMode,
  /** What the file itself says of its alpha. */
  says: z.string(),
  /** Colour tags in words; null when the file has none. */
  colour: z.string().nullable(),
  /** What the file says of the display it was mastered on and of its light, in words. */
  levels: z.string().nullable().default(null),
  plays: z.number().int().min(0).nullable(),
  verdict: Verdict,
  sentence: z.string(),
  /** What its receiver demands and it does not meet, waived by name. */
  waived: z.array(z.string()).default([]),
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
  deliveries: z.array(Delivery).min(1),
  /** What lies beside the deliveries to be read, but for this file and the list of sums. */
  papers: z.array(DeliveredFile)
})
export type Manifest = z.infer<typeof Manifest>

/** The manifest's JSON Schema (draft 2020-12), as published. */
export function manifestSchema(): object {
  return { title: 'Manifest of a hand-over', ...z.toJSONSchema(Manifest) }
}

/**
 * The sums of all files, papers and manifest too, in the form that checking programs read: sum, two blanks, path.
 * `own` is the manifest's.
 */
export function checksums(manifest: Manifest, own: string): string {
  const files = [...manifest.deliveries.flatMap(delivery => delivery.files), ...manifest.papers]
  return [...files, { path: MANIFEST_NAME, sha256: own }].map(({ path, sha256 }) => `${sha256}  ${path}\n`).join('')
}

/** Sums by path, as a list of them says; null where a line is none, or a path comes twice. */
export function readChecksums(text: string): Map<string, string> | null {
  const sums = new Map<string, string>()
  for (const line of text.split(/\r?\n/)) {
    if (!line.trim()) continue
    const [, sum, path] = /^([0-9a-f]{64}) [ *](.+)$/.exec(line) ?? []
    if (sum === undefined || sums.has(path!)) return null
    sums.set(path!, sum)
  }
  return sums
}
