/** `check PATH [--by FILE]`: a received hand-over against its manifest, its sums, and a key. */
import { listZip, looksLikeZip } from '../core/base/files/zip'
import { checkHandOver } from '../core/run/handover/check'
import { filesAt } from '../platform/node/disk'
import { PublicKey, readAs } from '../core/run/handover/seal'
import { text, type Call, type Options } from './call'
import { EXIT } from './exit'
import { textAt } from './text-at'

export async function check(location: string, options: Options, call: Call): Promise<number> {
  const file = text(options, 'by')
  const by = file === undefined ? null : readAs(PublicKey, await textAt(file), { file, what: 'a public key' })
  let files = await filesAt(location)
  const [first] = files
  if (files.length === 1 && first) {
    const reader = await call.host.openFile(first)
    if (looksLikeZip(await reader.read(0, 4))) files = await listZip(first, reader)
    await reader.close()
  }
  const result = await checkHandOver(files, call, {
    by,
    onProgress: (done, total) => call.progress('Checking', done, total)
  })
  if (call.json) call.print(JSON.stringify(result, null, 2))
  else {
    call.print(`${result.condition}: ${result.sentence}`)
    for (const d of result.deliveries) call.print(`  ${d.name}: ${d.sentence}`)
    for (const sentence of result.findings) call.print(`  ${sentence}`)
    for (const path of result.strangers) call.print(`  not handed over: ${path}`)
  }
  return result.condition === 'untouched' || result.condition === 'same-pictures' ? EXIT.done : EXIT.proofBroken
}
