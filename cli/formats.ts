/** `formats`: the registry, as data or as a table. */
import { sayStranger } from '../core/media/formats/document'
import { z } from 'zod'
import { formats as registry, runsOn } from '../core/open/registry'
import { nodeCodecs } from '../platform/node/host'
import { Depth } from '../core/frame/frame'
import type { Call } from './call'
import { EXIT } from './exit'

const Capability = z.object({ can: z.boolean(), says: z.string() })

export const FormatsOutput = z.array(
  z.object({
    id: z.string(),
    name: z.string(),
    tag: z.string(),
    extension: z.string(),
    delivers: z.enum(['film', 'pictures', 'folder']),
    lossless: z.boolean(),
    reads: z.boolean(),
    writes: z.boolean(),
    depths: z.array(z.object({ depth: Depth, colourBits: z.number(), alphaBits: z.number() })),
    alpha: z.object({ straight: Capability, premultiplied: Capability, none: Capability }),
    options: z.array(
      z.object({
        key: z.string(),
        label: z.string(),
        help: z.string(),
        default: z.union([z.string(), z.number(), z.boolean()])
      })
    ),
    runs: z.object({ browser: z.boolean(), node: z.boolean() }),
    /** Codings of sound that it takes. */
    sound: z.array(z.enum(['pcm', 'float', 'aac'])),
    proofReader: z.object({ name: z.string(), independent: z.boolean() }),
    /** Whether a stranger has seen its files, in words. */
    seen: z.string()
  })
)

export function formats(call: Call): number {
  const data = FormatsOutput.parse(
    registry.map(f => ({
      ...f,
      options: Object.entries(f.options).map(([key, field]) => ({ ...field, key })),
      reads: true,
      writes: !f.readOnly,
      runs: { browser: true, node: runsOn(f, nodeCodecs) },
      sound: [...(f.sound ?? [])],
      seen: sayStranger(f),
      alpha: Object.fromEntries(
        Object.entries(f.alpha).map(([mode, c]) => [mode, { can: c.can, says: c.can ? c.declares : c.because }])
      )
    }))
  )
  if (call.json) call.print(JSON.stringify(data, null, 2))
  else
    for (const f of data) {
      const modes = (['straight', 'premultiplied'] as const).filter(mode => f.alpha[mode].can)
      const depths = f.depths.map(d => (modes.length ? `${d.colourBits}+${d.alphaBits}` : String(d.colourBits)))
      const alpha = modes.join(' or ') || 'no alpha: a fill and its key, or either alone'
      call.print(`${f.id.padEnd(22)} ${f.name}, ${depths.join(' or ')} bit, ${alpha}`)
    }
  return EXIT.done
}
