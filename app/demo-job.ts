/** The first visit: the Fernbrook sources come in from the server as any files would, and outlets stand ready. */
import type { Given } from '~/db/files'
import { useJob } from '~/stores/job'
import { useScenes } from '~/stores/scenes'
import { useSources } from '~/stores/sources'
import { formatById } from '~~/core/open/registry'
import type { FormatId } from '~~/core/open/rows'
import type { Rate } from '~~/core/base/rate'
import type { Scene } from '~~/core/draw/scene/scene'
import { starters } from '~~/core/draw/scene/starters'
import { newOutlet, type Outlet } from '~~/core/job/outlet/outlet'

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

const SMALL = { width: 640, height: 360 }

/** What the demo renders itself, from starters: how long, and at what rate. */
const RENDERED: readonly { starter: string; seconds: number; rate: Rate }[] = [
  { starter: 'moth', seconds: 6, rate: [12, 1] },
  { starter: 'name-strap', seconds: 3, rate: [24, 1] },
  { starter: 'growth-arrow', seconds: 2, rate: [24, 1] },
  { starter: 'corner-mark', seconds: 2, rate: [24, 1] }
]

/** A starter's scene with its usual words and colours. */
function renderedScene({ starter, ...sized }: (typeof RENDERED)[number]): Scene {
  const found = starters.find(({ id }) => id === starter)!
  return found.make(Object.fromEntries(found.fields.map(field => [field.id, field.default])), { ...SMALL, ...sized })
}

async function bringDemo(demo: Demo): Promise<void> {
  const sources = useSources()
  // four of its sources are rendered here, and can be changed in the place of scenes
  await useScenes().add(RENDERED.map(renderedScene), 'Bring in the demo')
  const given: Given[] = []
  for (const [done, name] of demo.files.entries()) {
    sources.intake = { done, total: demo.files.length }
    const response = await fetch(`/api/demo/${name}`)
    if (!response.ok) throw new Error(`The server could not make ${name} (${response.status}).`)
    given.push({ path: name, file: await response.blob(), handle: null })
  }
  await sources.bringIn(given, { label: 'Bring in the demo', ask: false })
}
