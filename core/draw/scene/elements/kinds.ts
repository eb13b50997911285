/** The kinds of elements, in the order they are offered: a new one is a folder and a line here. */
import { z } from 'zod'
import { camera } from './camera'
import { clip } from './clip'
import { counter } from './counter'
import { group } from './group'
import type { ElementKind, LookSchema } from './kind'
import { lettering } from './lettering'
import { path } from './path'
import { particles } from './particles'
import { picture } from './picture'
import { ring } from './ring'
import { shape } from './shape'

export const elementKinds = [lettering, counter, shape, ring, path, particles, picture, clip, group, camera] as const

type SchemasOf<T extends readonly { schema: LookSchema }[]> = { -readonly [K in keyof T]: T[K]['schema'] }

/** What an element looks like. */
export const Look = z.discriminatedUnion(
  'kind',
  elementKinds.map(({ schema }) => schema) as unknown as SchemasOf<typeof elementKinds>
)
export type Look = z.infer<typeof Look>

const byKind = new Map<string, unknown>(elementKinds.map(kind => [kind.schema.shape.kind.value, kind]))

/** The kind of a look, as what it is: its functions take this look. */
export const kindOf = <L extends Look>({ kind }: L): ElementKind<LookSchema, L> =>
  byKind.get(kind) as ElementKind<LookSchema, L>
