/** The three ways in: a drop, a choice of files, a choice of a folder. All end in the same list of given files. */
import { directoryOpen, fileOpen } from 'browser-fs-access'
import type { Given } from '~/db/files'

type Chosen = File & { handle?: FileSystemFileHandle; webkitRelativePath?: string }

function given(file: Chosen): Given {
  return { path: file.webkitRelativePath || file.name, file, handle: file.handle ?? null }
}

const cancelled = (error: unknown): Given[] => {
  // closing the chooser without choosing is no error
  if (error instanceof DOMException && error.name === 'AbortError') return []
  throw error
}

export async function chooseFiles(): Promise<Given[]> {
  return fileOpen({ multiple: true, description: 'Pictures, films and archives', id: 'pour-files' }).then(
    files => files.map(given),
    cancelled
  )
}

export async function chooseFolder(): Promise<Given[]> {
  return directoryOpen({ recursive: true, id: 'pour-folder' }).then(
    files => (files as Chosen[]).filter(file => file instanceof File).map(given),
    cancelled
  )
}

async function walk(entry: FileSystemEntry, path: string, into: Given[]): Promise<void> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))
    into.push({ path: path + entry.name, file, handle: null })
    return
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  for (;;) {
    // a folder is read a hundred entries at a time, until none is left
    const entries = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (entries.length === 0) return
    for (const child of entries) await walk(child, `${path}${entry.name}/`, into)
  }
}

type ItemWithHandle = DataTransferItem & { getAsFileSystemHandle?(): Promise<FileSystemHandle | null> }

/** Files and folders of a drop, with handles for single files where the browser gives them. */
export async function droppedFiles(transfer: DataTransfer): Promise<Given[]> {
  const into: Given[] = []
  // items are gone after the event, so everything is asked for before the first await
  const items = [...transfer.items].filter(item => item.kind === 'file')
  const entries = items.map(item => item.webkitGetAsEntry())
  const files = items.map(item => item.getAsFile())
  const handles = items.map(item => (item as ItemWithHandle).getAsFileSystemHandle?.() ?? Promise.resolve(null))
  for (const [i, entry] of entries.entries()) {
    if (entry?.isDirectory) await walk(entry, '', into)
    else if (files[i]) {
      const handle = await handles[i]!.catch(() => null)
      into.push({
        path: files[i].name,
        file: files[i],
        handle: handle?.kind === 'file' ? (handle as FileSystemFileHandle) : null
      })
    }
  }
  return into
}
