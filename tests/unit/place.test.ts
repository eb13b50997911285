/** Results take their places whole or not at all, whatever the disk, another run or a kill does. */
import { spawnSync } from 'node:child_process'
import { chmod, link, mkdir, mkdtemp, readdir, readFile, rm, symlink, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterEach, beforeEach, expect, test } from 'vitest'
import { zipSink } from '../../core/base/files/sinks'
import { fileSink, fileSinks, folderSink } from '../../platform/node/place'
import { refuseSame } from '../../platform/node/same'
import { held } from './command-line'

let folder: string
beforeEach(async () => {
  folder = await mkdtemp(path.join(tmpdir(), 'pour-place-'))
})
afterEach(() => rm(folder, { recursive: true, force: true }))

const text = (words: string): Uint8Array => new TextEncoder().encode(words)

/** A process number that nobody has. */
function deadProcess(): number {
  return spawnSync(process.execPath, ['-e', '']).pid
}

test('a file has its name only once it is whole, and an abort leaves what stood', async () => {
  const at = path.join(folder, 'a.mov')
  await writeFile(at, 'before')
  const sink = await fileSink(at, { replace: true })
  await sink.append(text('after, and longer'))
  expect(await readFile(at, 'utf8')).toBe('before')
  await sink.abort()
  expect(await held(folder)).toEqual({ 'a.mov': expect.any(String) as string })
  expect(await readFile(at, 'utf8')).toBe('before')
  const again = await fileSink(at, { replace: true })
  await again.append(text('xfter'))
  await again.patch(0, text('a'))
  await again.close()
  expect(await readFile(at, 'utf8')).toBe('after')
  expect(await readdir(folder)).toEqual(['a.mov'])
})

test('without being asked nothing is replaced, even if it came while the file was written', async () => {
  const at = path.join(folder, 'a.mov')
  const [first, second] = [await fileSink(at, { replace: false }), await fileSink(at, { replace: false })]
  await first.append(text('first'))
  await second.append(text('second'))
  await second.close()
  await expect(first.close()).rejects.toThrow(/is there already/)
  await first.abort()
  expect(await readFile(at, 'utf8')).toBe('second')
  expect(await readdir(folder)).toEqual(['a.mov'])
})

test('two runs at once never share what they write', async () => {
  const at = path.join(folder, 'a.mov')
  const sinks = [await fileSink(at), await fileSink(at)]
  await Promise.all(sinks.map((sink, n) => sink.append(text(String(n).repeat(5000)))))
  await sinks[0]!.close()
  expect(await readFile(at, 'utf8')).toBe('0'.repeat(5000))
  await sinks[1]!.close()
  expect(await readFile(at, 'utf8')).toBe('1'.repeat(5000))
})

test('a fill and its key take their places together or not at all', async () => {
  const places = ['a_fill.mov', 'a_key.mov'].map(name => path.join(folder, name))
  await writeFile(places[0]!, 'old fill')
  const sinks = await fileSinks(places, { replace: true })
  for (const sink of sinks) await sink.append(text('new'))
  await sinks[0]!.close()
  expect(await readFile(places[0]!, 'utf8')).toBe('old fill')
  // the key's place is taken by a folder meanwhile
  await mkdir(places[1]!)
  await writeFile(path.join(places[1]!, 'x'), 'x')
  await expect(sinks[1]!.close()).rejects.toThrow(/folder|is there already/)
  await sinks[0]!.abort()
  expect(await readFile(places[0]!, 'utf8')).toBe('old fill')
  expect((await readdir(folder)).sort()).toEqual(['a_fill.mov', 'a_key.mov'])
  await rm(places[1]!, { recursive: true })
  const good = await fileSinks(places, { replace: true })
  for (const sink of good) await sink.append(text('new'))
  for (const sink of good) await sink.close()
  expect(await Promise.all(places.map(at => readFile(at, 'utf8')))).toEqual(['new', 'new'])
  expect((await readdir(folder)).sort()).toEqual(['a_fill.mov', 'a_key.mov'])
})

test('pictures take their places when all are there; other files of the folder stay', async () => {
  await writeFile(path.join(folder, '0001.png'), 'old 1')
  await writeFile(path.join(folder, '0003.png'), 'old 3')
  await writeFile(path.join(folder, 'note.txt'), 'mine')
  const before = await held(folder)
  const stopped = await folderSink(folder, { replace: true })
  await stopped.add('0001.png', text('new 1'))
  expect(await readFile(path.join(folder, '0001.png'), 'utf8')).toBe('old 1')
  await stopped.abort()
  expect(await held(folder)).toEqual(before)
  const refused = await folderSink(folder, { replace: false })
  await refused.add('0001.png', text('new 1'))
  await refused.add('0002.png', text('new 2'))
  await expect(refused.close()).rejects.toThrow(/0001.png is there already/)
  await refused.abort()
  expect(await held(folder)).toEqual(before)
  const sink = await folderSink(folder, { replace: true })
  for (const n of [1, 2]) await sink.add(`000${n}.png`, text(`new ${n}`))
  await sink.close()
  const now = await held(folder)
  expect(Object.keys(now).sort()).toEqual(['0001.png', '0002.png', '0003.png', 'note.txt'])
  expect(await readFile(path.join(folder, '0001.png'), 'utf8')).toBe('new 1')
  expect(now['0003.png']).toBe(before['0003.png'])
})

test('a folder that was made for a run goes with it when it fails', async () => {
  const at = path.join(folder, 'deep', 'frames')
  const sink = await folderSink(at, { replace: false })
  await sink.add('a/0001.png', text('x'))
  await sink.abort()
  expect(await readdir(path.join(folder))).not.toContain('frames')
  expect(Object.keys(await held(folder))).toEqual([])
})

test('a picture that cannot take its place undoes all that have', async () => {
  await writeFile(path.join(folder, '0001.png'), 'old 1')
  await mkdir(path.join(folder, '0002.png'))
  await writeFile(path.join(folder, '0002.png', 'inside'), 'x')
  const before = await held(folder)
  const sink = await folderSink(folder, { replace: true })
  for (const n of [1, 2, 3]) await sink.add(`000${n}.png`, text(`new ${n}`))
  await expect(sink.close()).rejects.toThrow(/0002.png is a folder/)
  await sink.abort()
  expect(await held(folder)).toEqual(before)
})

test('a run that was killed within its last step is taken back by the next', async () => {
  const room = path.join(folder, `.pour-${deadProcess()}-0badcafe`)
  await mkdir(path.join(room, 'new'), { recursive: true })
  await mkdir(path.join(room, 'old'), { recursive: true })
  // of three old pictures two were moved aside; of the new ones the first is in its place
  await writeFile(path.join(room, 'old', '0001.png'), 'old 1')
  await writeFile(path.join(room, 'old', '0002.png'), 'old 2')
  await writeFile(path.join(folder, '0003.png'), 'old 3')
  await writeFile(path.join(folder, '0001.png'), 'new 1')
  for (const n of [2, 3, 4]) await writeFile(path.join(room, 'new', `000${n}.png`), `new ${n}`)
  const names = ['0001.png', '0002.png', '0003.png']
  await writeFile(path.join(room, 'commit.json'), JSON.stringify({ names, fresh: [...names, '0004.png'] }))
  const sink = await folderSink(folder, { replace: true })
  await sink.abort()
  expect((await readdir(folder)).sort()).toEqual(names)
  for (const n of [1, 2, 3]) expect(await readFile(path.join(folder, `000${n}.png`), 'utf8')).toBe(`old ${n}`)
})

test('a run that was killed while it wrote its list had moved nothing, and does not stand in the way', async () => {
  const room = path.join(folder, `.pour-${deadProcess()}-0badcafe`)
  await mkdir(path.join(room, 'new'), { recursive: true })
  await writeFile(path.join(room, 'commit.json'), '{"names":["0001.png"],"fre')
  await writeFile(path.join(folder, '0001.png'), 'old 1')
  const sink = await folderSink(folder, { replace: true })
  await sink.abort()
  expect(await readdir(folder)).toEqual(['0001.png'])
  expect(await readFile(path.join(folder, '0001.png'), 'utf8')).toBe('old 1')
})

test('what a killed run had moved is put back by one run alone: another waits until the folder is free', async () => {
  const room = path.join(folder, `.pour-${deadProcess()}-0badcafe`)
  await mkdir(path.join(room, 'new'), { recursive: true })
  await mkdir(path.join(room, 'old'), { recursive: true })
  await writeFile(path.join(room, 'old', '0001.png'), 'old')
  await writeFile(path.join(folder, '0001.png'), 'new')
  await writeFile(path.join(room, 'commit.json'), JSON.stringify({ names: ['0001.png'], fresh: ['0001.png'] }))
  // somebody else who lives holds the folder
  const lock = path.join(folder, '.pour-commit')
  await writeFile(lock, String(process.ppid))
  const making = folderSink(folder, { replace: true })
  await new Promise(resolve => setTimeout(resolve, 200))
  expect(await readFile(path.join(folder, '0001.png'), 'utf8')).toBe('new')
  await rm(lock)
  await (await making).abort()
  expect(await readFile(path.join(folder, '0001.png'), 'utf8')).toBe('old')
  expect(await readdir(folder)).toEqual(['0001.png'])
})

test('what killed runs left is cleared away, what living ones write is not', async () => {
  const at = path.join(folder, 'a.mov')
  await writeFile(path.join(folder, `a.mov.pour-${deadProcess()}-00000001`), 'half')
  await writeFile(path.join(folder, `b.mov.pour-${deadProcess()}-00000001`), 'of another file')
  await writeFile(path.join(folder, `a.mov.pour-${process.ppid}-00000002`), 'being written')
  const sink = await fileSink(at)
  await sink.append(text('whole'))
  await sink.close()
  expect((await readdir(folder)).map(name => name.replace(/\d{2,}-/, '')).sort()).toEqual([
    'a.mov',
    'a.mov.pour-00000002',
    'b.mov.pour-00000001'
  ])
})

test('what can be no target is told before any work', async () => {
  await mkdir(path.join(folder, 'is-a-folder'))
  await writeFile(path.join(folder, 'is-a-file'), '')
  spawnSync('mkfifo', [path.join(folder, 'pipe')])
  const refusal = (name: string): Promise<unknown> => fileSink(path.join(folder, name))
  await expect(refusal('is-a-folder')).rejects.toThrow(/is a folder/)
  await expect(refusal('pipe')).rejects.toThrow(/is not a file/)
  await expect(refusal('is-a-file/a.mov')).rejects.toThrow(/file and no folder|is there already/)
  await expect(refusal('n'.repeat(300))).rejects.toThrow(/name is too long/)
  const long = path.join(folder, `${'n'.repeat(250)}.mov`)
  const sink = await fileSink(long)
  await sink.append(text('fits'))
  await sink.close()
  expect(await readFile(long, 'utf8')).toBe('fits')
})

const mounted = (at: string, options: string): boolean =>
  spawnSync('mount', ['-t', 'tmpfs', '-o', options, 'tmpfs', at]).status === 0

test('a full disk is told, and what stood is exactly as it was', async ({ skip }) => {
  const disk = path.join(folder, 'disk')
  await mkdir(disk)
  // where nothing may be mounted, the command line's test of a limited file size stands for this
  if (!mounted(disk, 'size=1m')) return skip()
  try {
    await writeFile(path.join(disk, 'a.mov'), 'before')
    await mkdir(path.join(disk, 'frames'))
    await writeFile(path.join(disk, 'frames', '0001.png'), 'before')
    const before = await held(disk)
    const block = new Uint8Array(300_000).fill(7)
    for (const make of [
      () => fileSink(path.join(disk, 'a.mov')),
      async () => {
        const zip = zipSink(await fileSink(path.join(disk, 'a.mov')), new Date(0))
        return { append: (b: Uint8Array) => zip.add(`${Math.random()}`, b), close: zip.close, abort: zip.abort }
      },
      async () => {
        const frames = await folderSink(path.join(disk, 'frames'), { replace: true })
        let n = 1
        return { append: (b: Uint8Array) => frames.add(`000${n++}.png`, b), close: frames.close, abort: frames.abort }
      }
    ]) {
      const sink = await make()
      await expect(
        (async () => {
          for (let n = 0; n < 6; n++) await sink.append(block)
          await sink.close()
        })()
      ).rejects.toThrow(/no room left on the disk/)
      await sink.abort()
      expect(await held(disk)).toEqual(before)
    }
  } finally {
    spawnSync('umount', [disk])
  }
})

test('a folder that may only be read is told', async ({ skip }) => {
  const disk = path.join(folder, 'disk')
  await mkdir(disk)
  if (process.getuid?.() === 0) {
    if (!mounted(disk, 'size=1m,ro')) return skip()
  } else await chmod(disk, 0o500)
  try {
    await expect(fileSink(path.join(disk, 'a.mov'))).rejects.toThrow(/can only be read|may not be read or written/)
    await expect(folderSink(disk, { replace: true })).rejects.toThrow(/can only be read|may not be read or written/)
  } finally {
    spawnSync('umount', [disk])
    await chmod(disk, 0o700)
  }
})

test('a place is known for the source whatever it is called', async () => {
  const source = path.join(folder, 'source.mov')
  await writeFile(source, 'x')
  await link(source, path.join(folder, 'hard.mov'))
  await symlink(source, path.join(folder, 'soft.mov'))
  await symlink(folder, path.join(folder, 'round'))
  for (const called of ['source.mov', 'hard.mov', 'soft.mov', './round/source.mov', 'x/../source.mov'])
    await expect(refuseSame([source], [path.join(folder, called)])).rejects.toThrow(/is the source itself/)
  await mkdir(path.join(folder, 'x'))
  await expect(refuseSame([folder], [path.join(folder, 'round')])).rejects.toThrow(/is the source itself/)
  await refuseSame([source], [path.join(folder, 'other.mov'), path.join(folder, 'nowhere', 'source.mov')])
})
