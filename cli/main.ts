/** The command line: `npm run --silent pour -- COMMAND`. */
import { fileURLToPath } from 'node:url'
import { parseArgs } from 'node:util'
import { isAbort, PourError, sentenceOf, wrongCall } from '../core/base/errors'
import { nodeHost } from '../platform/node/host'
import { diskError } from '../platform/node/disk-error'
import { threadPool } from '../platform/node/pool'
import { EVERYWHERE, type Call, type Options } from './call'
import { check } from './check'
import { key } from './key'
import { convert } from './convert'
import { EXIT, exitFor } from './exit'
import { formats } from './formats'
import { frames } from './frames'
import { handOver } from './hand-over'
import { inspect } from './inspect'
import { runJob } from './run'
import { watch } from './watch'
import { renderScene } from './scene'
import { prove, proveOne } from './prove'
import { progressOn } from './progress'
import { stationVisits } from './stations'

const HELP = `Usage: pour COMMAND     (from a checkout: npm run --silent pour -- COMMAND)

  formats                     the formats Pour reads and writes
  inspect PATH                facts and findings of a file, folder or ZIP
  frames PATH --to DIR [--depth 8|16] [--source-alpha MODE] [--replace]
                              stored frames as straight PNG: 0001.png and so on
  convert PATH --format ID --to PATH [--alpha straight|premultiplied|none] [--matte #rrggbb]
          [--depth N] [--rate N/D] [--source-alpha MODE] [--prepare FILE] [--sound none|as-is]
          [--timing shown|each] [--layer NAME] [--size WxH] [--codes keep]
          [--halves none|below|above|right|left[:WxH]] [--set key=value ...]
                              pours one source and proves the result; FILE is a saved preparation;
                              --halves says which half of a film's picture is its alpha, and the size they make
  convert PATH --outlet FILE --to PATH [--receiver FILE [--waive NAME,NAME]] [--set key=value ...]
                              the same by a saved outlet, its size and rate with it, refused where it is
                              not as a receiver's file demands
  run JOB --to DIR [--outlets NAME,NAME] [--waive NAME,NAME] [--replace]
                              pours and proves every cell of a job saved with its media; what the job's
                              receiver demands is waived by name, in all cells
  watch FOLDER --job JOB --to DIR [--rate N/D] [--once] [--replace]
          [--settle SECONDS] [--marker .ENDING]
                              pours what comes into a folder through a job's outlets, and puts it aside
                              in done or failed with its report; an arrival is taken when nothing of it
                              has changed for SECONDS (10), and with --marker only when a file of its name
                              and that ending (clip.mov.ready) stands beside it
  scene FILE --format ID --to PATH [--size WxH] [--rate N/D] [--fields TABLE [--names COLUMN] [--partly]]
          [--alpha MODE] [--matte #rrggbb] [--depth N] [--prepare FILE] [--replace] [--set key=value ...]
                              renders a scene; with a table one delivery a row, in the folder PATH;
                              --partly where table and scene do not meet everywhere
  scene FILE --check          all that is wrong with a scene's file, each with its place, or what is to be
                              known of the scene; its schema is docs/scene.schema.json
  prove REFERENCE DELIVERED [--reference-alpha MODE] [--delivered-alpha MODE] [--prepare FILE]
                              compares a delivery with its reference, whole; with --prepare as that
                              preparation makes it
  prove DELIVERED             judges a file by itself: does it say what its pixels are?
  stations DELIVERED [--source PATH [--source-alpha MODE]] [--frame N] [--backdrop #rrggbb|view]
           [--meant MODE] [--to DIR] [--replace]
                              how each family of programs takes the file, and whether it still shows its
                              source where that is given; --to writes their pictures
  hand-over REFERENCE DELIVERED... --to PLACE [--job NAME] [--sign KEY] [--reference-alpha MODE]
            [--delivered-alpha MODE] [--prepare FILE]
                              proves deliveries and packs them with notes, proof and sums; a PLACE that ends in
                              .zip is a ZIP; with --sign it bears the signature of a house's key
  check PATH [--by PUBLIC]    a received hand-over, folder or ZIP: has anything changed? with --by it must be signed
                              by the key whose public half is in that file
  key --to FILE --name HOUSE  a key to sign with, and its public half beside it for those who check

  --damaged stop|hold|skip    a picture of a sequence that cannot be read: nothing is poured (stop), the picture
                              before it is shown (hold), or it is left out (skip); and
  --gaps close|hold|stop      where numbers are missing, both for convert, run, watch, scene and frames

  --deadline SECONDS (600)    what one file, or one frame, may take before it is given up
  --memory MB (2048)          what a worker may hold beside its pictures
  serve [--empty] [--port N] [--host NAME]
                              the page, as npm start serves it from a checkout

  --quiet                     shows no progress; at a terminal it stands on standard error
  --json prints data instead of words. MODE is straight, premultiplied, premultiplied:#rrggbb or none.
  --replace writes over what is there already; without it nothing is, and a sequence that is replaced
  leaves none of its former pictures behind.
  Ends with 0 done, 2 wrong call, 3 unreadable input, 4 proof broken, 5 not possible here, 130 stopped,
  1 a fault of Pour itself. A run that does not end with 0 or 4 leaves what stood at its target as it was.`

const COMMANDS: Record<
  string,
  {
    paths: number | readonly number[]
    options: readonly string[]
    run: (paths: string[], options: Options, call: Call) => Promise<number> | number
  }
> = {
  formats: { paths: 0, options: [], run: (_, __, call) => formats(call) },
  inspect: { paths: 1, options: [], run: ([location], _, call) => inspect(location!, call) },
  frames: {
    paths: 1,
    options: ['to', 'depth', 'source-alpha', 'replace', 'damaged', 'gaps'],
    run: ([location], options, call) => frames(location!, options, call)
  },
  convert: {
    paths: 1,
    options: [
      'format',
      'outlet',
      'to',
      'alpha',
      'matte',
      'depth',
      'rate',
      'source-alpha',
      'prepare',
      'sound',
      'timing',
      'layer',
      'halves',
      'size',
      'codes',
      'receiver',
      'waive',
      'damaged',
      'gaps',
      'replace',
      'set'
    ],
    run: ([location], options, call) => convert(location!, options, call)
  },
  watch: {
    paths: 1,
    options: ['job', 'to', 'rate', 'once', 'replace', 'settle', 'marker', 'damaged', 'gaps'],
    run: ([location], options, call) => watch(location!, options, call)
  },
  run: {
    paths: 1,
    options: ['to', 'outlets', 'waive', 'replace', 'damaged', 'gaps'],
    run: ([location], options, call) => runJob(location!, options, call)
  },
  scene: {
    paths: 1,
    options: [
      'check',
      'format',
      'to',
      'size',
      'fields',
      'names',
      'partly',
      'alpha',
      'matte',
      'depth',
      'rate',
      'prepare',
      'damaged',
      'gaps',
      'replace',
      'set'
    ],
    run: ([location], options, call) => renderScene(location!, options, call)
  },
  'hand-over': {
    paths: Array.from({ length: 99 }, (_, n) => n + 2),
    options: ['to', 'job', 'sign', 'reference-alpha', 'delivered-alpha', 'prepare'],
    run: (paths, options, call) => handOver(paths, options, call)
  },
  check: { paths: 1, options: ['by'], run: ([location], options, call) => check(location!, options, call) },
  key: { paths: 0, options: ['to', 'name'], run: (_, options, call) => key(options, call) },
  prove: {
    paths: [1, 2],
    options: ['reference-alpha', 'delivered-alpha', 'prepare'],
    run: ([first, second], options, call) =>
      second === undefined ? proveOne(first!, options, call) : prove(first!, second, options, call)
  },
  stations: {
    paths: 1,
    options: ['source', 'source-alpha', 'frame', 'backdrop', 'meant', 'to', 'replace'],
    run: ([location], options, call) => stationVisits(location!, options, call)
  }
}

/** A bound in whole numbers, as it was said or as it is. */
function bound(options: Options, name: string, [usual, most]: readonly [number, number]): number {
  const said = options[name]
  if (said === undefined) return usual
  if (typeof said !== 'string' || !/^[1-9]\d{0,6}$/.test(said) || Number(said) > most)
    throw wrongCall(`--${name} takes a whole number from 1 to ${most}, not "${String(said)}"`)
  return Number(said)
}

function parse(args: string[]): { command: (typeof COMMANDS)[string]; paths: string[]; options: Options } {
  let found
  try {
    const string = { type: 'string' } as const
    found = parseArgs({
      args,
      allowPositionals: true,
      options: {
        json: { type: 'boolean' },
        help: { type: 'boolean' },
        quiet: { type: 'boolean' },
        replace: { type: 'boolean' },
        once: { type: 'boolean' },
        partly: { type: 'boolean' },
        check: { type: 'boolean' },
        to: string,
        depth: string,
        format: string,
        outlet: string,
        receiver: string,
        waive: string,
        outlets: string,
        alpha: string,
        matte: string,
        rate: string,
        job: string,
        sign: string,
        by: string,
        name: string,
        settle: string,
        marker: string,
        deadline: string,
        memory: string,
        codes: string,
        damaged: string,
        gaps: string,
        'source-alpha': string,
        'reference-alpha': string,
        'delivered-alpha': string,
        prepare: string,
        sound: string,
        timing: string,
        layer: string,
        halves: string,
        size: string,
        fields: string,
        names: string,
        frame: string,
        backdrop: string,
        meant: string,
        source: string,
        set: { type: 'string', multiple: true }
      }
    })
  } catch (error) {
    throw wrongCall(sentenceOf(error))
  }
  const [name, ...paths] = found.positionals
  const command = Object.hasOwn(COMMANDS, name ?? '') ? COMMANDS[name ?? ''] : undefined
  if (!command) throw wrongCall(name ? `there is no command "${name}"` : 'a command is needed')
  const counts = [command.paths].flat()
  if (!counts.includes(paths.length))
    throw wrongCall(
      `${name} takes ${counts.length > 3 ? `${counts[0]} to ${counts.at(-1)}` : counts.join(' or ')} ` +
        `${counts.at(-1) === 1 ? 'path' : 'paths'}, not ${paths.length}`
    )
  if (paths.includes('')) throw wrongCall('a path is empty')
  const foreign = Object.keys(found.values).find(
    option => !EVERYWHERE.includes(option) && !command.options.includes(option)
  )
  if (foreign) throw wrongCall(`${name} does not take --${foreign}`)
  return { command, paths, options: found.values }
}

/** Aborted by the first Ctrl C or polite end, so that half a result can be taken away; the second ends at once. */
function stopSignal(): AbortSignal {
  const stop = new AbortController()
  for (const name of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
    process.on(name, () => {
      if (stop.signal.aborted) process.exit(EXIT.stopped)
      stop.abort()
    })
  return stop.signal
}

async function main(args: string[]): Promise<number> {
  if (args.includes('--help') || args.length === 0) {
    console.log(HELP)
    return args.length ? EXIT.done : EXIT.wrongCall
  }
  const signal = stopSignal()
  try {
    const { command, paths, options } = parse(args)
    const kernels = fileURLToPath(new URL('./kernels.wasm', import.meta.url))
    const deadline = 1000 * bound(options, 'deadline', [600, 86_400])
    const memory = bound(options, 'memory', [2048, 1_000_000])
    const progress = progressOn(process.stderr, options.quiet === true)
    const pool = threadPool(fileURLToPath(new URL('./worker.mjs', import.meta.url)), kernels, { deadline, memory })
    const call: Call = {
      host: await nodeHost(kernels),
      pool,
      json: options.json === true,
      ...(options.deadline === undefined ? {} : { deadline }),
      signal,
      print: text => {
        progress(null)
        process.stdout.write(text + '\n')
      },
      remark: text => {
        progress(null)
        process.stderr.write(text + '\n')
      },
      progress
    }
    try {
      return await command.run(paths, options, call)
    } finally {
      progress(null)
      await pool.close()
    }
  } catch (given) {
    if (signal.aborted || isAbort(given)) {
      process.stderr.write('Stopped.\n')
      return EXIT.stopped
    }
    const error = diskError(given, (given as NodeJS.ErrnoException | null)?.path ?? 'the file')
    process.stderr.write(
      `${error instanceof PourError ? error.message : `Pour failed: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`}\n`
    )
    return exitFor(error)
  }
}

// whoever reads only the first lines closes the pipe; that is no error of ours
process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? EXIT.done : 1))
// without anybody to read remarks, the work goes on
process.stderr.on('error', () => undefined)

process.exitCode = await main(process.argv.slice(2))
