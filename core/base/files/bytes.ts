/** Joining bytes. */

/** All parts in one array; the part itself when there is only one. */
export function concatenate(parts: readonly Uint8Array[]): Uint8Array {
  if (parts.length === 1) return parts[0]!
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}
