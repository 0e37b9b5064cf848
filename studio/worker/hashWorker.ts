import { sha256 } from '@noble/hashes/sha2.js'

/*
 * Takes the SHA-256 of a file while it is being sent, part by part: the browser's own digest wants
 * all of it at once.
 */

addEventListener('message', ({ data: file }: MessageEvent<File>) => {
  digestOf(file).then(
    (digest) => postMessage({ digest }),
    () => postMessage({ digest: null }),
  )
})

/** The digest in base64, as digest fields carry it (RFC 9530). */
async function digestOf(file: File): Promise<string> {
  const hash = sha256.create()
  const reader = file.stream().getReader()
  for (let part = await reader.read(); !part.done; part = await reader.read())
    hash.update(part.value)
  return btoa(String.fromCharCode(...hash.digest()))
}
