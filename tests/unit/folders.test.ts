/**
 * Results in a folder that a browser lends: what stood there is exactly as it was until everything new is on the disk.
 */
import { expect, test } from 'vitest'
import { partSink, saveAll, saveInto } from '../../platform/browser/sinks'

/**
 * A folder in memory that keeps to the File System standard in what is used of it; `room` is how many bytes it takes in
 * all.
 */
class Folder {
  readonly kind = 'directory'
  readonly inside = new Map<string, Folder | { text: string }>()

  constructor(
    readonly name: string,
    private readonly disk = { room: Infinity }
  ) {}

  getDirectoryHandle(name: string, { create = false } = {}): Promise<Folder> {
    const there = this.inside.get(name)
    if (there instanceof Folder) return Promise.resolve(there)
    if (!create) return Promise.reject(new DOMException('none', 'NotFoundError'))
    const made = new Folder(name, this.disk)
    this.inside.set(name, made)
    return Promise.resolve(made)
  }

  getFileHandle(name: string, { create = false } = {}): Promise<unknown> {
    const there = this.inside.get(name)
    if (!there && !create) return Promise.reject(new DOMException('none', 'NotFoundError'))
    if (!there) this.inside.set(name, { text: '' })
    const file = this.inside.get(name) as { text: string }
    const { disk } = this
    return Promise.resolve({
      createWritable() {
        const pieces: Uint8Array[] = []
        return Promise.resolve(
          new WritableStream<Uint8Array>({
            write(piece) {
              disk.room -= piece.length
              if (disk.room < 0) throw new DOMException('full', 'QuotaExceededError')
              pieces.push(piece)
            },
            // only now does it take the place of what was there
            close: () => void (file.text = Buffer.concat(pieces).toString())
          })
        )
      }
    })
  }

  removeEntry(name: string): Promise<void> {
    this.inside.delete(name)
    return Promise.resolve()
  }

  get held(): Record<string, unknown> {
    return Object.fromEntries(
      [...this.inside].map(([name, what]) => [name, what instanceof Folder ? what.held : what.text])
    )
  }
}

const handle = (folder: Folder): FileSystemDirectoryHandle => folder as unknown as FileSystemDirectoryHandle
const loose = (count: number, size = 4, fail = Infinity) =>
  Array.from({ length: count }, (_, n) => ({
    name: `000${n + 1}.png`,
    blob: () => (n === fail ? Promise.reject(new Error('gone')) : Promise.resolve(new Blob([String(n).repeat(size)])))
  }))

test('frames take the place of others only when all of them are there', async () => {
  const folder = new Folder('out')
  await saveAll(handle(folder), 'frames', loose(3))
  expect(folder.held).toEqual({ frames: { '0001.png': '0000', '0002.png': '1111', '0003.png': '2222' } })
  ;(await folder.getDirectoryHandle('frames')).inside.set('note.txt', { text: 'mine' })
  const before = folder.held
  await expect(saveAll(handle(folder), 'frames', loose(3, 9, 2))).rejects.toThrow('gone')
  expect(folder.held).toEqual(before)
  const stop = AbortSignal.abort()
  await expect(saveAll(handle(folder), 'frames', loose(3, 9), stop)).rejects.toThrow()
  expect(folder.held).toEqual(before)
  await saveAll(handle(folder), 'frames', loose(2, 2))
  expect(folder.held).toEqual({
    frames: { '0001.png': '00', '0002.png': '11', '0003.png': '2222', 'note.txt': 'mine' }
  })
})

test('a disk that is full leaves the folder as it was', async () => {
  const disk = { room: 14 }
  const folder = new Folder('out', disk)
  await saveAll(handle(folder), 'frames', loose(2))
  const before = folder.held
  await expect(saveAll(handle(folder), 'frames', loose(2, 5))).rejects.toThrow('full')
  expect(folder.held).toEqual(before)
  await expect(saveAll(handle(folder), 'others', loose(9))).rejects.toThrow('full')
  expect(folder.held).toEqual(before)
})

test('a film that does not fit leaves the one that stood, and no name of its own', async () => {
  const folder = new Folder('out', { room: 10 })
  await saveInto(handle(folder), 'a.mov', new Blob(['good']))
  await expect(saveInto(handle(folder), 'a.mov', new Blob(['much too large']))).rejects.toThrow('full')
  await expect(saveInto(handle(folder), 'b.mov', new Blob(['much too large']))).rejects.toThrow('full')
  expect(folder.held).toEqual({ 'a.mov': 'good' })
})

test('parts that the store does not take fail the pour', async () => {
  const kept = new Map<number, Blob>()
  const sink = partSink({
    keep: (index, part) =>
      index === 2 ? Promise.reject(new Error('full')) : Promise.resolve(void kept.set(index, part)),
    discard: () => Promise.resolve(kept.clear())
  })
  const block = new Uint8Array(5 << 20)
  await sink.append(block)
  await sink.append(block)
  await expect(
    (async () => {
      for (let n = 0; n < 4; n++) await sink.append(block)
      await sink.close()
    })()
  ).rejects.toThrow('full')
  await sink.abort()
  expect(kept.size).toBe(0)
})
