/** What is going on in a cell. */
export type CellWork =
  | { state: 'waiting' }
  | { state: 'pouring'; done: number; total: number; started: number }
  | { state: 'proving'; done: number; total: number; started: number }
  | { state: 'failed'; sentence: string }
  | { state: 'unproven'; sentence: string }
  | { state: 'elsewhere' }

/** This page, as long as it lives: it holds a lock of this name. */
export const TAB = crypto.randomUUID()
