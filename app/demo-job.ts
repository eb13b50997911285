/** The first visit: the Fernbrook sources come in from the server as any files would, and outlets stand ready. */
import type { Given } from '~/db/files'
import { useJob } from '~/stores/job'
import { useScenes } from '~/stores/scenes'
import { useSources } from '~/stores/sources'
import { formatById } from '~~/core/formats/registry'
import type { FormatId } from '~~/core/formats/format'
import { starters } from '~~/core/scene/starters'
import { newOutlet, type Outlet } from '~~/core/outlet/outlet'

interface Demo {
  enabled: boolean
  name: string
  files: string[]
}

async function demoAtServer(): Promise<Demo> {
  const response = await fetch('/api/demo')
  if (!response.ok) throw new Error(`The server does not say what the demo is (${response.status}).`)
  return response.json() as Promise<Demo>
}

/** A new job: with the demo's sources, unless the server was started empty. */
export async function beginDemo(): Promise<void> {
  const jobs = useJob()
  const demo = await demoAtServer()
  await jobs.edit(
    'Begin',
    draft => {
      const fresh = (format: FormatId, name: string): Outlet => newOutlet(crypto.randomUUID(), formatById(format), name)
      // the same with the demo and without: what is learned on the one holds for the other
      const outlets = [
        fresh('quicktime-prores-4444', 'Editor hand-over'),
        fresh('quicktime-animation', 'Small and exact'),
        fresh('png-sequence', 'Compositing frames'),
        fresh('webm-vp9', 'Web page')
      ]
      for (const outlet of outlets) {
        draft.outlets[outlet.id] = outlet
        draft.outletOrder.push(outlet.id)
      }
      if (demo.enabled) draft.name = demo.name
    },
    { undoable: false }
  )
  if (demo.enabled) await bringDemo(demo)
}

/** Brings the demo's sources into the job that is open. */
export async function openDemo(): Promise<void> {
  await bringDemo(await demoAtServer())
}

async function bringDemo(demo: Demo): Promise<void> {
  const sources = useSources()
  const given: Given[] = []
  for (const [done, name] of demo.files.entries()) {
    sources.intake = { done, total: demo.files.length }
    const response = await fetch(`/api/demo/${name}`)
    if (!response.ok) throw new Error(`The server could not make ${name} (${response.status}).`)
    given.push({ path: name, file: await response.blob(), handle: null })
  }
  await sources.bringIn(given, { label: 'Bring in the demo', ask: false })
  // one of its sources is rendered here, and can be changed in the place of scenes
  const mark = starters.find(({ id }) => id === 'corner-mark')!
  const scene = mark.make(
    { text: 'FERNBROOK', colour: '#f6f3ea' },
    { width: 640, height: 360, rate: [24, 1], seconds: 2 }
  )
  await useScenes().add([scene], 'Bring in the demo')
}
