/** A packed sheet as a source: its data file read, its pages decoded as frames ask for them. */
import { unreadable } from '../../../../base/errors'
import { baseName, type ByteReader, type FileRef } from '../../../../base/files/file'
import type { AlphaMode, Frame } from '../../../../frame/frame'
import { OPAQUE, STRAIGHT } from '../../../../frame/frame'
import type { Host } from '../../../../frame/host'
import type { Finding } from '../../../../source/source'
import { inTurn } from '../../../../source/turns'
import type { OpenedPictures } from '../../../formats/format'
import { looksLikePng } from '../../png/chunks'
import { colourFindings, hasAlpha, readPngInfo, type PngInfo } from '../../png/header'
import { readPackedSheet, type PackedSheet } from './data'
import { cutFrom } from './page'
import { readShared } from './shared'

/** The largest data file: twenty thousand frames of the longest names. */
const MOST_DATA = 16 << 20

/** How the own data file begins, and what a file in the shared layout has in its first bytes. */
const OWN = /^\uFEFF?\s*\{\s*"sheet"\s*:\s*"packed"/
const SHARED = /^\uFEFF?\s*\{[^]*"frame"\s*:\s*\{\s*"(?:x|y|w|h)"\s*:/

export type SheetData = 'own' | 'shared'

/** Which data file these first bytes begin. */
export function dataKind(head: Uint8Array): SheetData | null {
  const text = new TextDecoder().decode(head)
  return OWN.test(text) ? 'own' : SHARED.test(text) ? 'shared' : null
}

const MODES: Record<PackedSheet['alpha'], AlphaMode> = {
  straight: STRAIGHT,
  premultiplied: { mode: 'premultiplied', matte: '#000000' },
  none: OPAQUE
}

interface Told {
  sheet: PackedSheet
  told: string[]
  kind: SheetData
}

/** What a data file says; rejects with one error that names the file where it is none, or too large. */
export async function readData(reader: ByteReader): Promise<Told> {
  if (reader.size > MOST_DATA) throw unreadable(reader.name, null, `the data of a sheet may have ${MOST_DATA >> 20} MB`)
  const kind = dataKind(await reader.read(0, Math.min(reader.size, 4096)))
  let parsed: unknown
  try {
    parsed = JSON.parse(new TextDecoder().decode(await reader.read(0, reader.size)).replace(/^\uFEFF/, ''))
  } catch {
    throw unreadable(reader.name, 'the data of the sheet', 'it is not complete')
  }
  if (kind === 'shared') return { kind, ...readShared(parsed, reader.name, 8) }
  return { kind: 'own', sheet: readPackedSheet(parsed, reader.name), told: [] }
}

/** Names of the files that lie beside a data file and belong to it. */
export async function pagesBeside(reader: ByteReader): Promise<string[]> {
  return [...new Set((await readData(reader)).sheet.pages.map(({ image }) => baseName(image)))]
}

export type DecodePage = (host: Host, reader: ByteReader) => Promise<Frame>

/** The data file among the files of a sheet: its own where there are several. */
async function dataAmong(files: readonly FileRef[], host: Host): Promise<{ reader: ByteReader; told: Told }> {
  let found: { reader: ByteReader; told: Told } | null = null
  for (const file of files.filter(({ path }) => /\.json$/i.test(path))) {
    const reader = await host.openFile(file)
    const kind = dataKind(await reader.read(0, Math.min(reader.size, 4096)))
    if (!kind || (found && kind === 'shared')) {
      await reader.close()
      continue
    }
    await found?.reader.close()
    found = { reader, told: await readData(reader) }
    if (kind === 'own') break
  }
  if (!found) throw unreadable(baseName(files[0]?.path ?? 'sheet'), null, 'there is no data file of a sheet with it')
  return found
}

interface Page {
  info: PngInfo
  reader: ByteReader
}

const finding = (id: string, sentence: string): Finding => ({ id, severity: 'warning', frames: [], sentence })

/**
 * A sheet by its data file and its pages, in any order: frames as they were before they were trimmed. Rejects with one
 * error that names the file where something is missing or does not fit.
 */
export async function openPacked(
  name: string,
  files: readonly FileRef[],
  host: Host,
  decode: DecodePage
): Promise<OpenedPictures> {
  const { reader: data, told } = await dataAmong(files, host)
  const { sheet } = told
  await data.close()
  const byName = new Map(files.map(file => [baseName(file.path), file]))
  const pages: Page[] = []
  for (const { image, width, height } of sheet.pages) {
    const file = byName.get(baseName(image))
    if (!file) throw unreadable(data.name, null, `its page ${image} is not with it; bring both in together`)
    const reader = await host.openFile(file)
    if (!looksLikePng(await reader.read(0, Math.min(64, reader.size))))
      throw unreadable(reader.name, null, 'pages of a sheet are read as PNG, and this is none')
    const info = await readPngInfo(reader)
    if (info.header.width !== width || info.header.height !== height)
      throw unreadable(
        reader.name,
        null,
        `it has ${info.header.width}x${info.header.height}, and ${data.name} speaks of ${width}x${height}`
      )
    pages.push({ info, reader })
  }
  const depths = new Set(pages.map(page => (page.info.header.bitDepth === 16 ? 16 : 8)))
  if (depths.size > 1) throw unreadable(data.name, null, 'some of its pages have 16 bits and others fewer')
  // one page is held at a time: frames that follow each other mostly lie in one
  let held: { page: number; pixels: Promise<Frame> } | null = null
  const turns = inTurn(data.name, sheet.frames.length, async index => {
    const piece = sheet.frames[index]!
    if (held?.page !== piece.page) held = { page: piece.page, pixels: decode(host, pages[piece.page]!.reader) }
    return cutFrom(await held.pixels, piece, sheet)
  })
  const { info } = pages[0]!
  const said = told.kind === 'own' ? sheet.alpha : pages.some(page => hasAlpha(page.info)) ? 'straight' : 'none'
  const alpha = MODES[said]
  return {
    facts: {
      name: name || sheet.name,
      kind: `Packed sheet, ${pages.length === 1 ? 'one page' : `${pages.length} pages`}`,
      width: sheet.width,
      height: sheet.height,
      frames: sheet.frames.length,
      rate: sheet.rate,
      rateFrom: sheet.rate ? 'file' : 'unknown',
      bitDepth: [...depths][0]!,
      claim: {
        mode: alpha.mode,
        matte: alpha.mode === 'premultiplied' ? alpha.matte : null,
        says:
          told.kind === 'own'
            ? `the sheet's data file says ${said === 'none' ? 'no alpha' : said}`
            : 'its data file says nothing, and PNG is straight by its standard'
      },
      colour: info.colour,
      tags: info.tags && [...info.tags],
      ...(info.levels ? { levels: info.levels } : {}),
      pixelAspect: info.pixelAspect,
      plays: null,
      ...(sheet.actions.length ? { marked: sheet.actions.slice(0, 200).map(action => ({ ...action })) } : {}),
      bytes: files.reduce((sum, { size }) => sum + size, 0),
      findings: [...colourFindings(info), ...told.told.map(sentence => finding('sheet-data', sentence))]
    },
    ...turns,
    async close() {
      await turns.settled()
      for (const { reader } of pages) await reader.close()
    }
  }
}
