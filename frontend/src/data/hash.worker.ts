import { sha256 } from '@noble/hashes/sha2.js'

const BLOCK = 4 << 20

/** The SHA-256 of a file, read block by block; sends the share done on the way and the checksum at the end. */
self.onmessage = async (event: MessageEvent<File>) => {
  const file = event.data
  const hash = sha256.create()
  try {
    for (let at = 0; at < file.size; at += BLOCK) {
      hash.update(new Uint8Array(await file.slice(at, at + BLOCK).arrayBuffer()))
      self.postMessage({ share: Math.min(1, (at + BLOCK) / file.size) })
    }
    const sum = Array.from(hash.digest(), (byte) => byte.toString(16).padStart(2, '0')).join('')
    self.postMessage({ sum })
  } catch {
    self.postMessage({ failed: true })
  }
}
