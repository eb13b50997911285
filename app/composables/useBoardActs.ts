/** What can be done with a cell, a row and a column of the board, by right click and by key. */
import type { Act } from '~/composables/useActs'
import { useCopies } from '~/composables/useCopies'
import { useDelivery } from '~/composables/useDelivery'
import { useRouter } from 'vue-router'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useSources } from '~/stores/sources'
import { readOutlet, writeOutlet } from '~~/core/job/outlet/text'
import { splitCell, type JobSource } from '~~/core/job/job'
import type { Outlet } from '~~/core/job/outlet/outlet'

export interface BoardActs {
  ofCell(cell: string): Act[]
  ofSource(source: JobSource): Act[]
  ofOutlet(outlet: Outlet): Act[]
}

export function useBoardActs(): BoardActs {
  const jobs = useJob()
  const desk = useDesk()
  const pours = usePours()
  const sources = useSources()
  const router = useRouter()
  const delivery = useDelivery()

  const busy = (cell: string): boolean => ['waiting', 'pouring', 'proving'].includes(pours.work.get(cell)?.state ?? '')
  const can = (cell: string): boolean => pours.problemsOf(cell).length === 0 && !busy(cell)
  const due = (cells: readonly string[]): string[] =>
    cells.filter(cell => {
      const result = pours.latest.get(cell)
      return can(cell) && (!result || pours.outOfDate(result))
    })

  async function removeSource(source: JobSource): Promise<void> {
    desk.choice = null
    await jobs.removeSources(new Set([source.id]))
    desk.message = `${source.name} is removed. Undo brings it back.`
  }

  async function removeOutlet(outlet: Outlet): Promise<void> {
    desk.choice = null
    await jobs.removeOutlet(outlet.id)
    desk.message = `${outlet.name} is removed. Undo brings it back.`
  }

  async function add(made: Omit<Outlet, 'id'>, label: string): Promise<void> {
    const id = await jobs.addOutlet(made, label)
    if (id) desk.choice = { kind: 'outlet', id }
  }

  const chosen = (): { source?: JobSource | undefined; outlet?: Outlet | undefined } => {
    const now = desk.choice
    if (now?.kind === 'source') return { source: jobs.job.sources[now.id] }
    if (now?.kind === 'outlet') return { outlet: jobs.job.outlets[now.id] }
    return {}
  }

  const copies = useCopies({
    copy() {
      const { outlet } = chosen()
      return outlet ? writeOutlet(outlet) : null
    },
    paste: text => add(readOutlet(text), 'Paste outlet'),
    duplicate() {
      const { outlet } = chosen()
      return outlet && add(outlet, 'Duplicate outlet')
    },
    remove() {
      const { source, outlet } = chosen()
      return source ? removeSource(source) : outlet && removeOutlet(outlet)
    }
  })

  const pourDue = (cells: readonly string[]): Act => {
    const now = due(cells)
    return {
      label: now.length === 1 ? 'Pour one cell of it' : `Pour ${now.length} cells of it`,
      off: now.length === 0,
      run: () => pours.start(now)
    }
  }

  return {
    ofCell(cell) {
      const { sourceId, outletId } = splitCell(cell)
      const result = pours.latest.get(cell)
      const whole = result && !pours.gone.has(result.id) && !busy(cell) ? result : null
      return [
        busy(cell)
          ? { label: 'Stop', run: () => pours.cancel(cell) }
          : { label: whole ? 'Pour again' : 'Pour this cell', off: !can(cell), run: () => pours.start([cell]) },
        {
          label: desk.picked.has(cell) ? 'Leave out of the next pour' : 'Pick for the next pour',
          key: 'Space',
          off: pours.problemsOf(cell).length > 0,
          run: () => desk.togglePick(cell)
        },
        ...(whole
          ? [
              { label: 'Download', apart: true, run: () => delivery.download(whole) },
              whole.report
                ? { label: 'See proof', run: () => router.push(`/proof?result=${whole.id}`) }
                : { label: 'Prove it', run: () => pours.proveAgain(whole) },
              { label: 'Remove result', run: () => pours.forget(whole.id) }
            ]
          : []),
        { label: 'Open on the bench', key: 'B', apart: true, run: () => router.push(`/bench?source=${sourceId}`) },
        { label: 'Open outlet', run: () => router.push(`/outlets?id=${outletId}`) }
      ]
    },
    ofSource: source => [
      { label: 'Open on the bench', key: 'B', run: () => router.push(`/bench?source=${source.id}`) },
      ...(source.scene && !source.span
        ? [{ label: 'Open the scene', run: () => router.push(`/scenes?scene=${source.id}`) }]
        : []),
      pourDue(pours.cellsOf(source.id)),
      ...(source.facts.frames > 1 ? [{ label: 'Give its rate…', run: () => void (sources.asking = [source.id]) }] : []),
      { label: 'Remove source', key: 'Delete', apart: true, run: () => removeSource(source) }
    ],
    ofOutlet: outlet => [
      { label: 'Open outlet', run: () => router.push(`/outlets?id=${outlet.id}`) },
      pourDue(
        jobs.sources.flatMap(({ id }) => pours.cellsOf(id)).filter(cell => splitCell(cell).outletId === outlet.id)
      ),
      { label: 'Duplicate', key: 'Ctrl D', apart: true, run: () => add(outlet, 'Duplicate outlet') },
      { label: 'Copy as text', key: 'Ctrl C', run: copies.copy },
      { label: 'Paste', key: 'Ctrl V', run: copies.paste },
      { label: 'Remove outlet', key: 'Delete', apart: true, run: () => removeOutlet(outlet) }
    ]
  }
}
