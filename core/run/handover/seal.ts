/**
 * A house's signature on a hand-over: Ed25519 (RFC 8032, by the machine's WebCrypto) over the list of sums, which
 * covers every file. Whoever holds the public half can tell that nothing has changed since it was signed; whose key it
 * is, only they can know.
 */
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { z } from 'zod'
import { unreachable, unreadable } from '../../base/errors'
import { fromBase64, toBase64 } from '../../base/files/base64'
import { sayFault } from '../../base/say-issue'

export const SEAL_NAME = 'signature.json'

const Name = z.string().trim().min(1).max(120)
const Letters = z
  .string()
  .max(400)
  .regex(/^[A-Za-z0-9+/]+=*$/)

const Half = z.object({
  version: z.literal(1),
  /** The raw key of 32 bytes, in base64. */
  public: Letters
})

/** The public half: what a receiver is given beforehand. */
export const PublicKey = Half.extend({ pour: z.literal('public-key'), name: Name })
export type PublicKey = z.infer<typeof PublicKey>

/** Both halves: kept by the house, and by nobody else. */
export const HouseKey = Half.extend({
  pour: z.literal('key'),
  name: Name,
  /** PKCS #8, in base64. */
  private: Letters
})
export type HouseKey = z.infer<typeof HouseKey>

export const Seal = Half.extend({
  pour: z.literal('signature'),
  /** What the house calls itself. */
  by: Name,
  /** Over the bytes of the list of sums, in base64. */
  signature: Letters
})
export type Seal = z.infer<typeof Seal>

const ALGORITHM = { name: 'Ed25519' }

function subtle(): SubtleCrypto {
  // a page that is not served securely has none
  const found = globalThis.crypto?.subtle as SubtleCrypto | undefined
  if (!found) throw unreachable('signatures need a page that is served from this machine or over HTTPS')
  return found
}

const bytesOf = (letters: string): Uint8Array<ArrayBuffer> => fromBase64(letters) ?? new Uint8Array(0)

/** A new key under a house's name. */
export async function makeKey(name: string): Promise<HouseKey> {
  const pair = (await subtle().generateKey(ALGORITHM, true, ['sign', 'verify'])) as CryptoKeyPair
  return {
    pour: 'key',
    version: 1,
    name: Name.parse(name),
    public: toBase64(new Uint8Array(await subtle().exportKey('raw', pair.publicKey))),
    private: toBase64(new Uint8Array(await subtle().exportKey('pkcs8', pair.privateKey)))
  }
}

/** The half of a house's key that is handed out. */
export const publicHalf = ({ name, public: half }: HouseKey): PublicKey => ({
  pour: 'public-key',
  version: 1,
  name,
  public: half
})

/** What people compare a key by: the first 20 digits of its SHA-256, in fours. */
export const printOf = (letters: string): string =>
  bytesToHex(sha256(bytesOf(letters)))
    .slice(0, 20)
    .replace(/(.{4})(?=.)/g, '$1 ')

/** Signs bytes. Rejects with one clear error where the key is none. */
export async function signed(bytes: Uint8Array<ArrayBuffer>, key: HouseKey): Promise<Seal> {
  try {
    const own = await subtle().importKey('pkcs8', bytesOf(key.private), ALGORITHM, false, ['sign'])
    const signature = toBase64(new Uint8Array(await subtle().sign(ALGORITHM, own, bytes)))
    const seal: Seal = { pour: 'signature', version: 1, by: key.name, public: key.public, signature }
    if (await isSigned(bytes, seal)) return seal
  } catch (error) {
    if (!(error instanceof DOMException || error instanceof TypeError)) throw error
  }
  throw unreadable(`the key of ${key.name}`, null, 'its two halves do not belong together')
}

/** Whether a seal is of these bytes, by the key it names. */
export async function isSigned(bytes: Uint8Array<ArrayBuffer>, seal: Seal): Promise<boolean> {
  try {
    const key = await subtle().importKey('raw', bytesOf(seal.public), ALGORITHM, false, ['verify'])
    return await subtle().verify(ALGORITHM, key, bytesOf(seal.signature), bytes)
  } catch (error) {
    if (error instanceof DOMException || error instanceof TypeError) return false
    throw error
  }
}

/** What a text holds, by a schema. Throws one clear error that names the file. */
export function readAs<T>(schema: z.ZodType<T>, text: string, { file, what }: { file: string; what: string }): T {
  let data: unknown
  try {
    data = JSON.parse(text)
  } catch {
    throw unreadable(file, null, `it is not ${what}: it is not JSON`)
  }
  const parsed = schema.safeParse(data)
  if (!parsed.success) throw unreadable(file, null, `it is not ${what}: ${sayFault(parsed.error.issues[0]!)}`)
  return parsed.data
}
