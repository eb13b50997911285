/** The Fernbrook Glasshouse: the job that a first visitor finds, made whole by code. */
import { encodePng } from '../core/media/pictures/png/encode'
import { memorySink, zipSink } from '../core/base/files/sinks'
import type { Frame } from '../core/frame/frame'
import type { Host } from '../core/frame/host'
import { growth, moth, pollen, potOnScreen, potShadow, strapOnPage } from './scenes'

export const DEMO_NAME = 'Fernbrook visitor screens'

export interface DemoSource {
  /** Name of the ZIP it comes in. */
  file: string
  /** Picture name for a number. */
  name(number: number): string
  frames: { number: number; make: () => Frame }[]
  note: string | null
}

function frames(count: number, at: (i: number) => Frame, leaveOut: readonly number[] = []): DemoSource['frames'] {
  return Array.from({ length: count }, (_, i) => ({ number: i + 1, make: () => at(i) })).filter(
    frame => !leaveOut.includes(frame.number)
  )
}

const four = (number: number): string => String(number).padStart(4, '0')

export const demoSources: readonly DemoSource[] = [
  {
    file: 'moth-loop.zip',
    name: n => `moth loop/moth loop_${four(n)}.png`,
    // the 25th frame repeats the first, as loops are often handed over
    frames: frames(25, i => moth((i % 24) / 24)),
    note: 'Moth for the visitor screens.\nRate: 12 frames per second. It should loop.\n'
  },
  {
    file: 'name-strap-page.zip',
    name: n => `strap on page/strap on page_24fps_${four(n)}.png`,
    frames: frames(24, i => strapOnPage(i / 23)),
    note: null
  },
  {
    file: 'vine-arrow.zip',
    name: n => `vine arrow/vine arrow_${n}.png`,
    frames: frames(24, i => growth(i / 23), [13]),
    note: null
  },
  {
    file: 'pollen.zip',
    name: n => `pollen on black/pollen on black_24fps_${four(n)}.png`,
    frames: frames(12, i => pollen(i / 12)),
    note: null
  },
  {
    file: 'seedling.zip',
    name: n => `seedling on screen/seedling on screen_24fps_${four(n)}.png`,
    frames: frames(24, i => potOnScreen(i / 23)),
    note: null
  },
  {
    file: 'shadow.zip',
    name: n => `seedling shadow/seedling shadow_24fps_${four(n)}.png`,
    frames: frames(12, i => potShadow(i / 11)),
    note: null
  }
]

/** One source as the ZIP somebody would have sent. Date and order are fixed: the same bytes each time. */
export async function demoZip(source: DemoSource, host: Host): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = memorySink()
  const zip = zipSink(bytes, new Date(2026, 2, 1))
  if (source.note) await zip.add(`${source.name(1).split('/')[0]}/hand-over.txt`, new TextEncoder().encode(source.note))
  for (const { number, make } of source.frames) await zip.add(source.name(number), await encodePng(host, make()))
  await zip.close()
  return bytes.bytes()
}
