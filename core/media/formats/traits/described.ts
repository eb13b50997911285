/** What a format is called, and what it is good for: what a person chooses it by. */
/**
 * What a format is good for: kept and handed on whole; read by engines; alpha only on or off; played in real time by
 * editors and playout; open and exact, to be kept for years; taken by slide decks; by messengers; opened by nearly
 * everything; small for what it shows; all frames in one picture; shown by graphics hardware as it is, on stages;
 * asked for by few.
 */
export type Purpose =
  | 'master'
  | 'for-engines'
  | 'hard-edges'
  | 'edits-live'
  | 'archival'
  | 'decks'
  | 'stickers'
  | 'everywhere'
  | 'compact'
  | 'sheet'
  | 'stages'
  | 'seldom'

/** Who shares no code with Pour and has seen files of a format. */
export type Stranger =
  | { readonly seen: true; readonly by: string }
  /** Why no stranger could be had. */
  | { readonly seen: false; readonly because: string }

export type Delivers = 'film' | 'pictures' | 'folder'

/** `I` is the id of the row. */
export interface Described<I extends string = string> {
  readonly id: I
  readonly name: string
  /** The short line over an outlet: container and codec. */
  readonly tag: string
  readonly extension: string
  readonly mime: string
  /** One file; one picture for each frame; or a folder of files that belong together, named after its main one. */
  readonly delivers: Delivers
  readonly carries: string
  readonly uses: readonly Purpose[]
  /** Who else has seen its files; given by the registry. */
  readonly stranger?: Stranger
}
