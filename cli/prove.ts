/** `prove REFERENCE DELIVERED`: compares two deliveries, whole. */
import { wholeForm } from '../core/formats/form'
import { formatById } from '../core/formats/registry'
import type { AlphaMode } from '../core/frame/frame'
import { prove as proveDelivery } from '../core/proof/prove'
import { ProofReport } from '../core/proof/report'
import { bringOne, withMode, type Brought } from './bring-in'
import { parseAlpha, text, type Call, type Options } from './call'
import { EXIT } from './exit'

async function brought(location: string, option: string, options: Options, call: Call): Promise<Brought> {
  const given = text(options, option)
  return withMode(await bringOne(location, call), given ? parseAlpha(given, option) : null, call)
}

export async function prove(referencePath: string, deliveredPath: string, options: Options, call: Call): Promise<number> {
  const reference = await brought(referencePath, 'reference-alpha', options, call)
  const delivered = await brought(deliveredPath, 'delivered-alpha', options, call)
  const { facts } = delivered
  // a delivery that has lost its alpha is held against what was due, not against itself
  const own = delivered.spec.interpretation.alpha ?? { mode: 'straight' as const }
  const due: AlphaMode = own.mode === 'none' && reference.facts.claim.mode !== 'none' ? { mode: 'straight' } : own
  const report = await proveDelivery(
    {
      reference: reference.spec,
      frames: Array.from({ length: reference.facts.frames }, (_, i) => i),
      expected: { width: reference.facts.width, height: reference.facts.height, frames: reference.facts.frames, rate: reference.facts.rate, ...wholeForm(facts.bitDepth, due, { transfer: formatById(facts.format).transfer ?? 'srgb' }), bytes: null },
      delivered: delivered.spec
    },
    call.host,
    call.pool,
    () => undefined
  )
  if (call.json) call.print(JSON.stringify(ProofReport.parse(report), null, 2))
  else {
    call.print(`${report.verdict}: ${report.sentence}`)
    for (const r of report.readings) call.print(`  ${r.name}: ${[r.asked && `asked ${r.asked}`, r.found && `found ${r.found}`, r.error && `error ${r.error}`].filter(Boolean).join(', ')}`)
    for (const finding of report.findings) call.print(`  ${finding.severity}: ${finding.sentence}`)
    call.print(`  read by ${formatById(facts.format).proofReader.name}`)
  }
  return report.verdict === 'broken' ? EXIT.proofBroken : EXIT.done
}
