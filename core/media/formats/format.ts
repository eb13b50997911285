/**
 * The format table's row. Everything the house knows of a format stands in one of these: the outlet form, validation,
 * size estimates, the command line and the documentation are drawn from it. It is made of small traits; who needs one
 * of them asks for that one.
 */
import type { FileRef } from '../../base/files/file'
import type { Host } from '../../frame/host'
import type { Source, SourceFacts } from '../../source/source'
import type { Carrying } from './traits/carrying'
import type { Described } from './traits/described'
import type { ShownOnPage } from './traits/on-page'
import type { Readable } from './traits/reading'
import type { Writable } from './traits/writing'

/** A row of the table; `I` is its id. */
export interface Format<I extends string = string> extends Described<I>, Carrying, Readable, Writable, ShownOnPage {}

/** A source whose row in the table is not said yet. */
export type OpenedPictures = Omit<Source, 'facts'> & { readonly facts: Omit<SourceFacts, 'format'> }

/** What pictures, single or moving, are made of: all of a row but what it is called and good for. */
export type PictureKind = Omit<
  Format,
  'id' | 'name' | 'tag' | 'uses' | 'page' | 'readOnly' | 'open' | 'openForProof'
> & {
  open(name: string, files: readonly FileRef[], host: Host, layer?: string): Promise<OpenedPictures>
  openForProof(name: string, files: readonly FileRef[], host: Host, layer?: string): Promise<OpenedPictures>
}
