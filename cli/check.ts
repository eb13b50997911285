/** `check PATH`: a received hand-over against its manifest. */
import { listZip, looksLikeZip } from '../core/files/zip'
import { checkHandOver } from '../core/handover/check'
import { filesAt } from '../platform/node/disk'
import type { Call } from './call'
import { EXIT } from './exit'

export async function check(location: string, call: Call): Promise<number> {
  let files = await filesAt(location)
  const [first] = files
  if (files.length === 1 && first) {
    const reader = await call.host.openFile(first)
    if (looksLikeZip(await reader.read(0, 4))) files = await listZip(first, reader)
    await reader.close()
  }
  const result = await checkHandOver(files, call)
  if (call.json) call.print(JSON.stringify(result, null, 2))
  else {
    call.print(`${result.condition}: ${result.sentence}`)
    for (const d of result.deliveries) call.print(`  ${d.name}: ${d.sentence}`)
    for (const path of result.strangers) call.print(`  not named in the manifest: ${path}`)
  }
  return result.condition === 'untouched' || result.condition === 'same-pictures' ? EXIT.done : EXIT.proofBroken
}
