/** `prove [REFERENCE] DELIVERED`: compares two deliveries, whole; or judges one by itself. */
import { formatById } from '../core/open/registry'
import { proveAlone } from '../core/judge/proof/alone'
import { expectedOutside } from '../core/judge/proof/outside'
import { prove as proveDelivery } from '../core/judge/proof/prove'
import { ProofReport } from '../core/judge/proof/report'
import { sayLedger } from '../core/judge/ledger/ledger'
import { broughtAs } from './taking'
import type { Call, Options } from './call'
import { EXIT } from './exit'
import { referenceAt } from './prepare'

export async function prove(
  referencePath: string,
  deliveredPath: string,
  options: Options,
  call: Call
): Promise<number> {
  const reference = await referenceAt(referencePath, options, call)
  const delivered = await broughtAs(deliveredPath, 'delivered-alpha', options, call)
  const { facts } = delivered
  if (reference.facts.claim.mode === 'none' && facts.claim.mode !== 'none')
    call.remark(
      'The reference has no alpha, and the delivery has. Where it was keyed, --prepare FILE holds it against ' +
        'what its preparation makes.'
    )
  const expected = expectedOutside(reference.facts, facts, delivered.spec.interpretation.alpha)
  const report = await proveDelivery(
    {
      reference: reference.spec,
      frames: Array.from({ length: reference.facts.frames }, (_, i) => i),
      expected,
      delivered: delivered.spec,
      ...(reference.origin ? { origin: reference.origin } : {})
    },
    call,
    (done, total) => call.progress('Proving', done, total)
  )
  if (call.json) call.print(JSON.stringify(ProofReport.parse(report), null, 2))
  else {
    call.print(`${report.verdict}: ${report.sentence}`)
    for (const each of sayLedger(report.ledger)) call.print(`  ${each}`)
    for (const r of report.readings)
      call.print(
        `  ${r.name}: ${[r.asked && `asked ${r.asked}`, r.found && `found ${r.found}`, r.error && `error ${r.error}`].filter(Boolean).join(', ')}`
      )
    for (const finding of report.findings) call.print(`  ${finding.severity}: ${finding.sentence}`)
    call.print(`  read by ${formatById(facts.format).proofReader.name}`)
  }
  return report.verdict === 'broken' ? EXIT.proofBroken : EXIT.done
}

/** `prove DELIVERED`: does what the file says agree with its pixels? */
export async function proveOne(path: string, options: Options, call: Call): Promise<number> {
  const { spec } = await broughtAs(path, 'delivered-alpha', options, call)
  const report = await proveAlone(spec, call, (done, total) => call.progress('Looking', done, total))
  if (call.json) call.print(JSON.stringify(report, null, 2))
  else {
    call.print(
      `${{ yes: 'agrees', no: 'contradicts itself', unsaid: 'says nothing', unsure: 'cannot tell' }[report.agrees]}: ` +
        `${report.sentence}`
    )
    for (const { name, value } of report.facts) call.print(`  ${name}: ${value}`)
    for (const finding of report.findings) call.print(`  ${finding.severity}: ${finding.sentence}`)
  }
  return report.agrees === 'no' ? EXIT.proofBroken : EXIT.done
}
