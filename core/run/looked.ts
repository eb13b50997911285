/**
 * What was found by looking at a job's sources and cells, as it goes along in the job's file: whoever opens it need not
 * look again. Taken only by the code that looked, of media whose bytes are the same; a hint like all else a job notes.
 */
import { z } from 'zod'
import { ExaminedShare, Examination } from '../judge/examine/examination'
import { Finding } from '../source/source'

export const LOOKED_ENTRY = 'looked.json'
/** More than the looks at any job come to. */
export const MOST_LOOKED = 64 << 20

const Estimate = z.object({
  bytes: z.number(),
  least: z.number(),
  most: z.number(),
  quality: z
    .object({
      verdict: z.enum(['identical', 'faithful', 'visible-loss', 'broken']),
      sentence: z.string(),
      alpha: z.number(),
      colour: z.number(),
      edge: z.number(),
      frames: z.number()
    })
    .nullable()
})

const Side = z.number().int().min(1).max(1024)

/** A look by what it is of: a key that names sources and outlets by the job's ids. */
export const KeptLook = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('thumb'),
    of: z.string(),
    /** RGBA of 8 bits, in base64. */
    value: z.object({ width: Side, height: Side, pixels: z.string().max(8 << 20) })
  }),
  z.object({ kind: z.literal('ribbon'), of: z.string(), value: z.array(ExaminedShare) }),
  z.object({ kind: z.literal('findings'), of: z.string(), value: z.array(Finding) }),
  z.object({ kind: z.literal('estimate'), of: z.string(), value: Estimate })
])
export type KeptLook = z.infer<typeof KeptLook>

const KeptExaminations = z.object({
  pour: z.literal('looked'),
  /** Of the code that looked. */
  code: z.string(),
  /** By source: the interpretation it was made under, and what was found. */
  examinations: z.record(z.string(), z.object({ key: z.string(), examination: Examination })),
  looks: z.array(z.unknown())
})
export interface KeptExaminations {
  code: string
  examinations: Record<string, { key: string; examination: Examination }>
  looks: KeptLook[]
}

/** The text of the entry. */
export const lookedText = ({ code, examinations, looks }: KeptExaminations): string =>
  JSON.stringify({ pour: 'looked', code, examinations, looks })

/**
 * The looks of a text by the same code, with the job's ids replaced by the fresh ones; null where other code looked, or
 * the text is none. A single look that is not whole is left out: it is had again.
 */
export function readLooked(text: string, code: string, fresh: ReadonlyMap<string, string>): KeptExaminations | null {
  let parsed: unknown
  try {
    parsed = JSON.parse(text, (_, value: unknown) => (typeof value === 'string' ? renamed(value, fresh) : value))
  } catch {
    return null
  }
  const read = KeptExaminations.safeParse(parsed)
  if (!read.success || read.data.code !== code) return null
  return {
    code,
    examinations: Object.fromEntries(
      Object.entries(read.data.examinations).map(([id, look]) => [fresh.get(id) ?? id, look])
    ),
    looks: read.data.looks.flatMap(look => {
      const whole = KeptLook.safeParse(look)
      return whole.success ? [whole.data] : []
    })
  }
}

const ID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/g

/** Ids within longer texts too: keys are made of several. */
const renamed = (text: string, fresh: ReadonlyMap<string, string>): string =>
  text.replace(ID, id => fresh.get(id) ?? id)
