/** How a web page shows a format. */
/** How a web page shows a format. */
export interface OnPage {
  element: 'film' | 'picture'
  /** Media type, with the codec where that decides whether it plays. */
  type: string
  /** Whether a page shows it move; else one picture of it. */
  moves: boolean
  /** Place among what a page may offer, best first: small and exact before widely known. Only of what moves. */
  order: number
}

export interface ShownOnPage {
  /** Absent for what no page shows. */
  readonly page?: OnPage
}
