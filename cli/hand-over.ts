/**
 * `hand-over REFERENCE DELIVERED... --to PLACE`: proves deliveries and packs them with their papers, into a folder or a
 * ZIP.
 */
import { zipSink, type FilesSink } from '../core/base/files/sinks'
import { impossible } from '../core/base/errors'
import { bytesOfEntry, gather, type HandedOver } from '../core/run/handover/gather'
import { HouseKey, readAs } from '../core/run/handover/seal'
import { expectedOutside } from '../core/judge/proof/outside'
import { prove } from '../core/judge/proof/prove'
import { exists } from '../platform/node/disk'
import { fileSink, folderSink } from '../platform/node/place'
import { placeAsked } from '../platform/node/resolved'
import { refuseSame } from '../platform/node/same'
import path from 'node:path'
import { broughtAs } from './taking'
import { needed, text, type Call, type Options } from './call'
import { EXIT } from './exit'
import { referenceAt } from './prepare'
import { textAt } from './text-at'

export async function handOver(
  [referencePath, ...paths]: readonly string[],
  options: Options,
  call: Call
): Promise<number> {
  const to = await placeAsked(needed(options, 'to'))
  await refuseSame([referencePath!, ...paths], [to])
  if (await exists(to)) throw impossible(`${to} is there already; a hand-over is written anew`)
  const file = text(options, 'sign')
  const key = file === undefined ? null : readAs(HouseKey, await textAt(file), { file, what: 'a key that signs' })
  const reference = await referenceAt(referencePath!, options, call)
  const deliveries: HandedOver[] = []
  for (const location of paths) {
    const { spec, facts } = await broughtAs(location, 'delivered-alpha', options, call)
    const expected = expectedOutside(reference.facts, facts, spec.interpretation.alpha)
    const report = await prove(
      {
        reference: reference.spec,
        frames: Array.from({ length: reference.facts.frames }, (_, i) => i),
        expected,
        delivered: spec,
        ...(reference.origin ? { origin: reference.origin } : {})
      },
      call,
      (done, total) => call.progress('Proving', done, total)
    )
    deliveries.push({
      name: path.basename(location),
      source: reference.facts.name,
      spec,
      facts,
      report,
      due: expected.alpha
    })
    if (!call.json) call.print(`${report.verdict}: ${path.basename(location)}. ${report.sentence}`)
  }
  const entries = await gather(
    { deliveries, job: text(options, 'job') ?? reference.facts.name, made: new Date(), whole: true, key },
    call,
    (what, done, total) => call.progress(what, done, total)
  )
  const placing = { replace: false }
  const sink: FilesSink = /\.zip$/i.test(to)
    ? zipSink(await fileSink(to, placing), new Date(1980, 0, 1))
    : await folderSink(to, placing)
  try {
    for (const entry of entries) {
      call.signal.throwIfAborted()
      await sink.add(entry.name, await bytesOfEntry(entry, call.host))
    }
    await sink.close()
  } catch (error) {
    await sink.abort()
    throw error
  }
  const broken = deliveries.filter(({ report }) => report.verdict === 'broken')
  if (call.json)
    call.print(
      JSON.stringify(
        {
          to,
          files: entries.map(({ name }) => name),
          deliveries: deliveries.map(({ name, report }) => ({
            name,
            verdict: report.verdict,
            sentence: report.sentence
          }))
        },
        null,
        2
      )
    )
  else
    call.print(
      `${to}: ${entries.length} files, ${deliveries.length} ${deliveries.length === 1 ? 'delivery' : 'deliveries'}`
    )
  return broken.length ? EXIT.proofBroken : EXIT.done
}
