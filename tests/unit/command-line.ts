/** The command line as a pipeline runs it, and what it leaves on the disk. */
import { execFile } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readdir, readFile } from 'node:fs/promises'
import path from 'node:path'
import { root } from './support'

export const script = path.join(root, 'dist/cli/pour.mjs')

export interface Ended {
  code: number
  out: string
  error: string
}

/** Builds it where it is older than its sources. */
export async function builtCommandLine(): Promise<void> {
  const { buildCommandLine } = (await import(path.join(root, 'scripts/build.mjs'))) as {
    buildCommandLine(): Promise<string>
  }
  await buildCommandLine()
}

/** Runs a command within `folder`. */
export function runIn(folder: string, args: readonly string[]): Promise<Ended> {
  return new Promise(resolve => {
    execFile(process.execPath, [script, ...args], { cwd: folder, maxBuffer: 1 << 26 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, error: err })
    )
  })
}

/** Every file below a folder, with a sum of its bytes. */
export async function held(folder: string): Promise<Record<string, string>> {
  const found: Record<string, string> = {}
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true }))
    if (entry.isFile()) {
      const full = path.join(entry.parentPath, entry.name)
      found[path.relative(folder, full)] = createHash('md5')
        .update(await readFile(full))
        .digest('hex')
    }
  return found
}
