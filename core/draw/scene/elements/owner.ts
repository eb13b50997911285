/** The look itself as the owner of its fields. */
import type { Owner } from './entry'

/** A look, as whose its fields are; what has become another kind of look has none of them. */
export const lookOwner = <L extends { kind: string }>(look: L): Owner<L, L> => ({
  name: 'look',
  undo: 'Change the style',
  now: look,
  at: changed => (changed.kind === look.kind ? changed : null)
})
