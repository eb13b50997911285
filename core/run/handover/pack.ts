/** Everything that lies in a hand-over: the delivered files, and the papers that go with them. */
import { formatById } from '../../open/registry'
import { halvesHow, halvesPage } from './halves-page'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import type { FileRef } from '../../base/files/file'
import type { ProofReport } from '../../judge/proof/report'
import { sayLevels } from '../../source/light-levels'
import type { SourceFacts, FilesSpec } from '../../source/source'
import { inOrder } from '../../base/pool'
import type { Workshop } from '../../frame/workshop'
import type { ProofTasks } from '../../judge/proof/tasks'
import { toHtml, toPdf, toText } from './document'
import { checksums, MANIFEST_NAME, SUMS_NAME, type Delivery, type Manifest } from './manifest'
import { noteBlocks, proofBlocks, type Told } from './note'
import { SEAL_NAME, signed, type HouseKey } from './seal'

/** A delivery to be packed: its bytes as a source that can be read back, and its proof. */
export interface Packed {
  name: string
  source: string
  spec: FilesSpec
  facts: SourceFacts
  report: ProofReport
  /** Demands of the receiver that it does not meet, and that were waived, in sentences. */
  waived?: readonly string[]
  /** Where its files lie in the hand-over, one for each of the spec's files, then its key's. */
  paths: readonly string[]
}

/** Reads every file and, where the whole is wanted, every frame once: checksums and fingerprints. */
export async function describe(
  packed: Packed,
  {
    pool,
    signal,
    whole,
    onFrame
  }: Pick<Workshop<ProofTasks>, 'pool' | 'signal'> & { whole: boolean; onFrame: () => void }
): Promise<Delivery> {
  const { spec, facts, report } = packed
  const all: readonly FileRef[] = [...spec.files, ...(spec.key ?? [])]
  const files = []
  for (const [i, file] of all.entries())
    files.push({
      path: packed.paths[i]!,
      bytes: file.size,
      sha256: await pool.run('digest', [[file]], { signal })
    })
  const fingerprints: string[] = []
  await inOrder(
    whole ? facts.frames : 0,
    pool.size * 2,
    i => pool.run('fingerprint', [spec, i], { signal }),
    print => {
      fingerprints.push(print)
      onFrame()
    }
  )
  return {
    name: packed.name,
    source: packed.source,
    format: spec.format,
    kind: facts.kind,
    files,
    fillFiles: spec.key ? spec.files.length : null,
    width: facts.width,
    height: facts.height,
    frames: facts.frames,
    ...(facts.stacked ? { stacked: facts.stacked } : {}),
    rate: facts.rate,
    depth: facts.bitDepth,
    alpha: spec.interpretation.alpha ?? { mode: 'straight' },
    says: facts.claim.says,
    colour: facts.colour,
    levels: facts.levels ? sayLevels(facts.levels) : null,
    plays: facts.plays,
    verdict: report.verdict,
    sentence: report.sentence,
    waived: [...(packed.waived ?? [])],
    ledger: report.ledger,
    fingerprints
  }
}

/** A page beside each film of halves that plays it, put together, over whatever lies behind. */
function players({ deliveries }: Pick<Manifest, 'deliveries'>): { name: string; bytes: Uint8Array }[] {
  return deliveries.flatMap(({ stacked, format, files: [film], alpha }) => {
    const { page, mime } = formatById(format)
    if (!stacked || !film || !page?.moves) return []
    const content = halvesPage(film.path, mime, halvesHow(stacked, alpha))
    return [{ name: `${film.path.replace(/\.[^.]*$/, '')}-player.html`, bytes: new TextEncoder().encode(content) }]
  })
}

/**
 * The papers of a hand-over, by name: the manifest with the sums of those before it, the list of all sums, and with a
 * key its signature. Rejects with one clear error where the key cannot sign.
 */
export async function papers(
  about: Omit<Manifest, 'papers'>,
  told: readonly Told[],
  key: HouseKey | null = null
): Promise<{ name: string; bytes: Uint8Array }[]> {
  const text = (content: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(content)
  const note = noteBlocks(about, told)
  const proof = proofBlocks(about, told)
  const read = [
    { name: 'note.txt', bytes: text(toText(note)) },
    { name: 'note.html', bytes: text(toHtml(`${about.job}: hand-over`, note)) },
    { name: 'proof.html', bytes: text(toHtml(`${about.job}: proof of transparency`, proof)) },
    ...players(about),
    { name: 'proof.pdf', bytes: await toPdf(`${about.job}: proof of transparency`, proof, new Date(about.made)) }
  ]
  const sum = (bytes: Uint8Array): string => bytesToHex(sha256(bytes))
  const manifest: Manifest = {
    ...about,
    papers: read.map(({ name, bytes }) => ({ path: name, bytes: bytes.length, sha256: sum(bytes) }))
  }
  const own = text(JSON.stringify(manifest, null, 1))
  const sums = text(checksums(manifest, sum(own)))
  const seal = key && text(`${JSON.stringify(await signed(sums, key), null, 1)}\n`)
  return [
    ...read,
    { name: SUMS_NAME, bytes: sums },
    { name: MANIFEST_NAME, bytes: own },
    ...(seal ? [{ name: SEAL_NAME, bytes: seal }] : [])
  ]
}
