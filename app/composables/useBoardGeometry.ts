/** What of the board is in sight: rows and columns beyond are not drawn. */
import { useElementSize } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, type Ref } from 'vue'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useRows, type BoardItem, type BoardLine } from '~/stores/rows'
import type { Outlet } from '~~/core/job/outlet/outlet'
import { inPlaces, lengthened, stacked, withinSight, type Stacked } from '~~/core/judge/view/sight'

/** Heights of a row, of the heads of the columns, and of a heading over rows. */
export const ROW = 95
export const HEAD = 93
export const HEADING = 32
/** Pixels drawn beyond each edge of what is seen. */
const BEYOND = 4 * ROW
/** So few rows are all drawn. */
const ALL_ROWS = 20
/** Up to so many columns are all drawn; of more those in sight, and so many beside. */
const ALL_COLUMNS = 12
const BESIDE = 2
/** Widths of the head of a row, and of a column at least and at most. */
const WIDTHS = { wide: [304, 158, 220], narrow: [232, 104, 130] } as const
/** Milliseconds without a scroll after which the board stands. */
const STANDS = 120

interface Stretch {
  first: number
  last: number
}

/** The stretch as it was where it is the same: then nothing is drawn again. */
const unmoved = (before: Stretch | undefined, now: Stretch): Stretch =>
  before?.first === now.first && before.last === now.last ? before : now

/** A column as it is drawn: the outlet at `c`, `left` pixels from the first. */
export interface BoardColumn {
  outlet: Outlet
  c: number
  left: number
}

export function useBoardGeometry(matrix: Ref<HTMLElement | null>) {
  const jobs = useJob()
  const desk = useDesk()
  const board = useRows()
  const { width, height } = useElementSize(matrix)
  const [aside, scrolled] = [ref(0), ref(0)]
  let standing: ReturnType<typeof setTimeout> | undefined

  /** Takes how far the board is scrolled, and asks nothing else of the page, which would lay it out anew. */
  function follow(): void {
    if (!matrix.value) return
    aside.value = matrix.value.scrollLeft
    scrolled.value = matrix.value.scrollTop
    board.moves = true
    clearTimeout(standing)
    standing = setTimeout(stand, STANDS)
  }
  function stand(): void {
    clearTimeout(standing)
    board.moves = false
  }
  onBeforeUnmount(stand)

  const laid = computed(() => stacked(board.items, (item: BoardItem) => (item.kind === 'row' ? ROW : HEADING)))
  const places = computed(() => Math.max(ALL_ROWS, Math.ceil((height.value + 2 * BEYOND) / ROW) + 2))
  const inSight = computed<Stretch>(before => {
    const from = scrolled.value - HEAD - BEYOND
    const seen = withinSight(laid.value, from, scrolled.value + Math.max(height.value, ROW) + BEYOND)
    return unmoved(before, lengthened(seen, places.value, laid.value.length))
  })
  const drawn = computed(() => laid.value.slice(inSight.value.first, inSight.value.last))
  /** A row that scrolls out of sight lends what it is drawn with to the one that comes in: nothing is built anew. */
  const rows = computed(() =>
    inPlaces(
      drawn.value.filter((item): item is BoardLine & Stacked => item.kind === 'row'),
      places.value
    )
  )
  const headings = computed(() => drawn.value.flatMap(item => (item.kind === 'heading' ? item : [])))

  const widths = computed(() => {
    const [head, least, most] = desk.narrow ? WIDTHS.narrow : WIDTHS.wide
    const each = Math.floor((width.value - head) / Math.max(1, jobs.outlets.length))
    return { head, column: Math.max(least, Math.min(most, each)) }
  })
  const columnsInSight = computed<Stretch>(before => {
    const count = jobs.outlets.length
    if (count <= ALL_COLUMNS) return unmoved(before, { first: 0, last: count })
    const { head, column } = widths.value
    const first = Math.max(0, Math.floor(aside.value / column) - BESIDE)
    return unmoved(before, { first, last: Math.ceil((aside.value + width.value - head) / column) + BESIDE })
  })
  const columns = computed<BoardColumn[]>(() => {
    const { first, last } = columnsInSight.value
    const { column } = widths.value
    return jobs.outlets.map((outlet, c) => ({ outlet, c, left: c * column })).slice(first, last)
  })

  /** All of the board, in pixels. */
  const whole = computed(() => {
    const last = laid.value.at(-1)
    const { head, column } = widths.value
    return { width: head + jobs.outlets.length * column, height: last ? last.top + last.height : 0 }
  })

  /** Brings a row into sight, below the head of the columns, and a column, beside the heads of the rows. */
  function reveal(row: number, c: number): void {
    const box = matrix.value
    const item = laid.value.find(each => each.kind === 'row' && each.at === row)
    if (!box || !item) return
    const { head, column } = widths.value
    const left = c * column
    if (left < box.scrollLeft) box.scrollLeft = left
    else if (left + column + head > box.scrollLeft + box.clientWidth)
      box.scrollLeft = left + column + head - box.clientWidth
    if (item.top < box.scrollTop) box.scrollTop = item.top
    else if (item.top + ROW + HEAD > box.scrollTop + box.clientHeight)
      box.scrollTop = item.top + ROW + HEAD - box.clientHeight
  }

  return { follow, rows, headings, whole, widths, columns, reveal }
}
