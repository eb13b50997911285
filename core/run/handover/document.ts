/** Pages for people: one list of blocks, written as plain text, as a printable HTML page, and as PDF. */
import { PDFDocument, StandardFonts, rgb, type PDFFont, type PDFPage } from 'pdf-lib'
import { toBase64 } from '../../base/files/base64'

export interface DocumentPicture {
  /** A PNG file. */
  png: Uint8Array
  width: number
  height: number
  caption: string
}

export type Block =
  | { kind: 'heading'; level: 1 | 2 | 3; text: string }
  | { kind: 'paragraph'; text: string }
  | { kind: 'list'; items: readonly string[] }
  | { kind: 'table'; head: readonly string[] | null; rows: readonly (readonly string[])[] }
  | { kind: 'code'; text: string }
  | { kind: 'pictures'; items: readonly DocumentPicture[] }

/** A heading of a document, of the first to the third rank. */
export const heading = (level: 1 | 2 | 3, text: string): Block => ({ kind: 'heading', level, text })

/** A paragraph of a document. */
export const paragraph = (text: string): Block => ({ kind: 'paragraph', text })

const WIDTH = 78

/** Words into lines of at most `width` characters. */
function wrapped(text: string, width: number): string[] {
  const lines: string[] = []
  let line = ''
  for (const word of text.split(/\s+/)) {
    if (line && line.length + 1 + word.length > width) {
      lines.push(line)
      line = word
    } else line = line ? `${line} ${word}` : word
  }
  return line ? [...lines, line] : lines
}

function textTable({ head, rows }: Extract<Block, { kind: 'table' }>): string {
  const all = head ? [head, ...rows] : [...rows]
  const widths = (all[0] ?? []).map((_, c) => Math.min(44, Math.max(...all.map(row => (row[c] ?? '').length))))
  return all
    .map(row =>
      row
        .map((text, c) => (c === row.length - 1 ? text : text.padEnd(widths[c]!)))
        .join('  ')
        .trimEnd()
    )
    .join('\n')
}

/** Plain text, lines of at most 78 characters but for addresses, code and wide tables. */
export function toText(blocks: readonly Block[]): string {
  const parts = blocks.map(block => {
    switch (block.kind) {
      case 'heading':
        return block.level === 3
          ? block.text
          : `${block.text}\n${(block.level === 1 ? '=' : '-').repeat(Math.min(WIDTH, block.text.length))}`
      case 'paragraph':
        return wrapped(block.text, WIDTH).join('\n')
      case 'list':
        return block.items
          .map(item =>
            wrapped(item, WIDTH - 2)
              .map((line, i) => (i ? '  ' : '- ') + line)
              .join('\n')
          )
          .join('\n')
      case 'table':
        return textTable(block)
      case 'code':
        return block.text.trimEnd()
      case 'pictures':
        return block.items.map(p => `[picture: ${p.caption}]`).join('\n')
    }
  })
  return parts.join('\n\n') + '\n'
}

/** The text as it may stand in HTML, in an attribute too. */
export const escapeHtml = (text: string): string =>
  text.replace(/[&<>"]/g, c => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!)

function htmlBlock(block: Block): string {
  switch (block.kind) {
    case 'heading':
      return `<h${block.level}>${escapeHtml(block.text)}</h${block.level}>`
    case 'paragraph':
      return `<p>${escapeHtml(block.text)}</p>`
    case 'list':
      return `<ul>${block.items.map(item => `<li>${escapeHtml(item)}</li>`).join('')}</ul>`
    case 'table': {
      const head = block.head
        ? `<thead><tr>${block.head.map(cell => `<th scope="col">${escapeHtml(cell)}</th>`).join('')}</tr></thead>`
        : ''
      return `<table>${head}<tbody>${block.rows.map(([first = '', ...rest]) => `<tr><th scope="row">${escapeHtml(first)}</th>${rest.map(cell => `<td>${escapeHtml(cell)}</td>`).join('')}</tr>`).join('')}</tbody></table>`
    }
    case 'code':
      return `<pre>${escapeHtml(block.text.trimEnd())}</pre>`
    case 'pictures':
      return `<div class="pictures">${block.items
        .map(
          p =>
            `<figure><img src="data:image/png;base64,${toBase64(p.png)}" ` +
            `width="${p.width}" height="${p.height}" ` +
            `alt="${escapeHtml(p.caption)}"><figcaption>${escapeHtml(p.caption)}</figcaption></figure>`
        )
        .join('')}</div>`
  }
}

const STYLE =
  'body{font:15px/1.5 sans-serif;color:#1d1d1d;background:#fff;max-width:760px;margin:32px ' +
  'auto;padding:0 20px}h1{font-size:24px}h2{font-size:18px;margin-top:32px;border-top:1px solid ' +
  '#d2d2d2;padding-top:16px}h3{font-size:15px}table{border-collapse:collapse;width:100%}th,td{text-align:left;vertical-align:top;padding:3px ' +
  '14px 3px 0;font-weight:400;border-bottom:1px solid #e9e9e9;overflow-wrap:break-word}thead ' +
  'th,tbody th{color:#5a5a5a}pre{background:#f6f6f6;padding:10px;overflow:auto;font-size:12px;white-space:pre-wrap;overflow-wrap:anywhere}.pictures{display:flex;flex-wrap:wrap;gap:14px}figure{margin:0;width:230px}figure ' +
  'img{width:100%;height:auto;background:#7d7d7d}figcaption{font-size:13px;color:#5a5a5a}@media ' +
  'print{body{margin:0;max-width:none}h2,figure,tr{break-inside:avoid}h2{break-after:avoid}}'

/** A page that stands by itself: no script, nothing loaded from elsewhere. */
export function toHtml(title: string, blocks: readonly Block[]): string {
  return (
    '<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n<meta name="viewport" ' +
    `content="width=device-width">\n<title>${escapeHtml(title)}</title>\n<style>${STYLE}</style>\n</head>\n<body>\n${blocks.map(htmlBlock).join('\n')}\n</body>\n</html>\n`
  )
}

/** What the built-in fonts of PDF lack (they hold Windows-1252), said in characters they have. */
function plain(text: string): string {
  return text
    .replace(/→/g, '->')
    .replace(/≤/g, '<=')
    .replace(/Δ/g, 'd')
    .replace(/[^\n\x20-\x7e\xa0-\xff‘’“”–—…•]/g, '?')
}

/** A4, in points. */
const PAGE = { width: 595, height: 842, margin: 50 }

class Sheet {
  private page: PDFPage
  y = PAGE.height - PAGE.margin

  constructor(private readonly pdf: PDFDocument) {
    this.page = pdf.addPage([PAGE.width, PAGE.height])
  }

  /** Makes room for `height` points, on a new page if need be. */
  room(height: number): void {
    if (this.y - height >= PAGE.margin) return
    this.page = this.pdf.addPage([PAGE.width, PAGE.height])
    this.y = PAGE.height - PAGE.margin
  }

  lines(
    text: string,
    {
      font,
      size,
      x = PAGE.margin,
      width = PAGE.width - 2 * PAGE.margin,
      soft = false
    }: { font: PDFFont; size: number; x?: number; width?: number; soft?: boolean }
  ): number {
    const lines = plain(text)
      .split('\n')
      .flatMap(line => broken(line, font, size, width))
    const from = this.y
    for (const line of lines) {
      this.page.drawText(line, {
        x,
        y: this.y - size,
        size,
        font,
        color: soft ? rgb(0.35, 0.35, 0.35) : rgb(0.11, 0.11, 0.11)
      })
      this.y -= size * 1.35
    }
    return from - this.y
  }

  image(
    image: Awaited<ReturnType<PDFDocument['embedPng']>>,
    x: number,
    y: number,
    width: number,
    height: number
  ): void {
    this.page.drawImage(image, { x, y, width, height })
  }
}

/** Lines no wider than `width`; a word that is wider by itself is cut. */
function broken(text: string, font: PDFFont, size: number, width: number): string[] {
  const fits = (line: string): boolean => font.widthOfTextAtSize(line, size) <= width
  const lines: string[] = []
  let line = ''
  for (let word of text.split(' ')) {
    if (line && fits(`${line} ${word}`)) {
      line += ` ${word}`
      continue
    }
    if (line) lines.push(line)
    while (!fits(word)) {
      let cut = word.length - 1
      while (cut > 1 && !fits(word.slice(0, cut))) cut--
      lines.push(word.slice(0, cut))
      word = word.slice(cut)
    }
    line = word
  }
  return [...lines, line]
}

/** Widths that share `inner` by what the columns hold; none takes less than its longest word, up to a fifth. */
function columnWidths(rows: readonly (readonly string[])[], font: PDFFont, inner: number): number[] {
  const columns = rows[0]?.length ?? 1
  const most = (c: number, of: (cell: string) => number): number =>
    Math.max(...rows.map(row => of(plain(row[c] ?? ''))))
  const wide = (line: string): number => font.widthOfTextAtSize(line, 9) + 8
  const least = Array.from({ length: columns }, (_, c) =>
    Math.min(
      inner / 5,
      most(c, cell => Math.max(...cell.split(/\s/).map(wide)))
    )
  )
  const wanted = least.map((low, c) => Math.max(low, Math.min(inner * 0.8, most(c, wide))))
  const [spare, asked] = [
    inner - least.reduce((a, b) => a + b, 0),
    wanted.reduce((sum, w, c) => sum + w - least[c]!, 0)
  ]
  return least.map((low, c) => low + (asked > 0 ? (spare * (wanted[c]! - low)) / asked : spare / columns))
}

/** The same as PDF 1.7 on A4, with the fonts that every reader has. */
export async function toPdf(title: string, blocks: readonly Block[], made: Date): Promise<Uint8Array> {
  const pdf = await PDFDocument.create()
  pdf.setTitle(plain(title))
  pdf.setProducer('Pour')
  pdf.setCreator('Pour')
  pdf.setCreationDate(made)
  pdf.setModificationDate(made)
  const text = await pdf.embedFont(StandardFonts.Helvetica)
  const strong = await pdf.embedFont(StandardFonts.HelveticaBold)
  const mono = await pdf.embedFont(StandardFonts.Courier)
  const sheet = new Sheet(pdf)
  const inner = PAGE.width - 2 * PAGE.margin
  for (const block of blocks) {
    switch (block.kind) {
      case 'heading': {
        const size = [20, 14, 11][block.level - 1]!
        sheet.room(size * 4)
        sheet.y -= block.level === 2 ? 12 : 0
        sheet.lines(block.text, { font: strong, size })
        break
      }
      case 'paragraph':
        for (const line of broken(plain(block.text), text, 10, inner)) {
          sheet.room(14)
          sheet.lines(line, { font: text, size: 10 })
        }
        break
      case 'list':
        for (const item of block.items) {
          sheet.room(28)
          sheet.lines(`• ${item}`, { font: text, size: 10 })
        }
        break
      case 'code':
        for (const line of block.text
          .trimEnd()
          .split('\n')
          .flatMap(part => broken(plain(part), mono, 8, inner))) {
          sheet.room(12)
          sheet.lines(line, { font: mono, size: 8 })
        }
        break
      case 'table': {
        const rows = [...(block.head ? [block.head] : []), ...block.rows]
        const widths = columnWidths(rows, text, inner)
        const left = widths.map((_, c) => PAGE.margin + widths.slice(0, c).reduce((a, b) => a + b, 0))
        const high = (row: readonly string[]): number =>
          13 * Math.max(...row.map((cell, c) => broken(plain(cell), text, 9, widths[c]! - 8).length))
        for (const [n, row] of rows.entries()) {
          const head = block.head !== null && n === 0
          // a head stays with the first row it heads
          sheet.room(high(row) + (head && rows[1] ? high(rows[1]) : 0))
          const top = sheet.y
          let low = top
          row.forEach((cell, c) => {
            sheet.y = top
            sheet.lines(cell, { font: text, size: 9, x: left[c]!, width: widths[c]! - 8, soft: head || c === 0 })
            low = Math.min(low, sheet.y)
          })
          sheet.y = low
        }
        break
      }
      case 'pictures':
        for (let n = 0; n < block.items.length; n += 2) {
          const pair = block.items.slice(n, n + 2)
          const width = (inner - 14) / 2
          const heights = pair.map(p => Math.min(170, (width * p.height) / p.width))
          const high = Math.max(...heights)
          sheet.room(high + 50)
          const top = sheet.y
          let low = top
          for (const [i, picture] of pair.entries()) {
            const image = await pdf.embedPng(picture.png)
            const x = PAGE.margin + i * (width + 14)
            sheet.image(image, x, top - heights[i]!, (heights[i]! * picture.width) / picture.height, heights[i]!)
            sheet.y = top - high - 4
            sheet.lines(picture.caption, { font: text, size: 9, x, width, soft: true })
            low = Math.min(low, sheet.y)
          }
          sheet.y = low - 4
        }
        break
    }
    sheet.y -= 7
  }
  return pdf.save()
}
