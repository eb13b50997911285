/** `key --to FILE --name HOUSE`: a key to sign hand-overs with, and its public half beside it. */
import path from 'node:path'
import { writeFile } from 'node:fs/promises'
import { impossible } from '../core/base/errors'
import { makeKey, printOf, publicHalf } from '../core/run/handover/seal'
import { exists } from '../platform/node/disk'
import { placeAsked } from '../platform/node/resolved'
import { needed, type Call, type Options } from './call'
import { EXIT } from './exit'

export async function key(options: Options, call: Call): Promise<number> {
  const to = await placeAsked(needed(options, 'to'))
  const half = `${to.replace(/\.(key|json)$/i, '')}.public.json`
  for (const place of [to, half])
    if (await exists(place)) throw impossible(`${place} is there already; a key is never written over`)
  const made = await makeKey(needed(options, 'name'))
  // nobody else on this machine reads the half that signs
  await writeFile(to, `${JSON.stringify(made, null, 1)}\n`, { flag: 'wx', mode: 0o600 })
  await writeFile(half, `${JSON.stringify(publicHalf(made), null, 1)}\n`, { flag: 'wx' })
  const said = { key: to, public: half, name: made.name, print: printOf(made.public) }
  if (call.json) call.print(JSON.stringify(said, null, 2))
  else
    call.print(
      `${to} signs; keep it. ${path.basename(half)} is for those who check. Key ${said.print}, of “${made.name}”.`
    )
  return EXIT.done
}
