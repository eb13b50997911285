/** Handing a file to the browser's downloads. */
export function download(name: string, blob: Blob): void {
  const link = Object.assign(document.createElement('a'), { href: URL.createObjectURL(blob), download: name })
  link.click()
  // the browser has begun to read by then; the address must outlive the click
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
}
