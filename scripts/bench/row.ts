/** A line that a bench prints. */
export interface Row {
  what: string
  perSecond: number
  bytes?: number
  ratio?: string
}
