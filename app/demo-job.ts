/** The first visit: the Fernbrook sources come in from the server as any files would, and three outlets stand ready. */
import type { Given } from '~/db/files'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { formatById } from '~~/core/formats/registry'
import { newOutlet } from '~~/core/outlet/outlet'

interface Demo {
  enabled: boolean
  name: string
  files: string[]
}

export async function beginDemo(): Promise<void> {
  const jobs = useJob()
  const sources = useSources()
  const demo = await fetch('/api/demo').then(response => response.json() as Promise<Demo>)
  await jobs.edit(
    'Begin',
    draft => {
      const outlets = [
        newOutlet(crypto.randomUUID(), formatById('quicktime-animation'), 'Editor hand-over'),
        newOutlet(crypto.randomUUID(), formatById('png-sequence'), 'Compositing frames'),
        { ...newOutlet(crypto.randomUUID(), formatById('apng'), 'Web page'), depth: 8 as const }
      ]
      for (const outlet of outlets) {
        draft.outlets[outlet.id] = outlet
        draft.outletOrder.push(outlet.id)
      }
      if (demo.enabled) draft.name = demo.name
    },
    { undoable: false }
  )
  if (!demo.enabled) return
  const given: Given[] = []
  for (const [done, name] of demo.files.entries()) {
    sources.intake = { done, total: demo.files.length }
    const response = await fetch(`/api/demo/${name}`)
    if (!response.ok) throw new Error(`The server could not make ${name} (${response.status}).`)
    given.push({ path: name, file: await response.blob(), handle: null })
  }
  await sources.bringIn(given, { label: 'Bring in the demo', ask: false })
}
