import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'

/** A name for what the parts say: the first 128 bits of the SHA-256 of their JSON, in hexadecimal. */
export function hashOf(...parts: unknown[]): string {
  return bytesToHex(sha256(utf8ToBytes(JSON.stringify(parts)))).slice(0, 32)
}
