declare module 'linebreak' {
  /** Line breaking by Unicode Standard Annex 14. */
  export default class LineBreaker {
    constructor(text: string)
    nextBreak(): { position: number; required: boolean } | null
  }
}
