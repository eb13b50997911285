/** Bytes as letters that stand in JSON and HTML (RFC 4648, clause 4). */

/** Bytes handed to one call: engines bound how many arguments it may have. */
const AT_ONCE = 8192

/** The bytes in letters, padded to a multiple of four. */
export function toBase64(bytes: Uint8Array): string {
  let text = ''
  for (let at = 0; at < bytes.length; at += AT_ONCE) text += String.fromCharCode(...bytes.subarray(at, at + AT_ONCE))
  return btoa(text)
}

/** Null where the letters are no base64. */
export function fromBase64(text: string): Uint8Array<ArrayBuffer> | null {
  try {
    return Uint8Array.from(atob(text), letter => letter.charCodeAt(0))
  } catch {
    return null
  }
}
