import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { DOCUMENT_VERSION } from '../core/backdrop/BackdropDocument'

/**
 * Identifies a version of Telon: the version of documents, and the digest of the sources of the
 * build (`dev` without a build). The studio of the same build has the same text.
 */
export async function versionOf(dist: string): Promise<string> {
  const print = await readFile(join(dist, '.telon-sources'), 'utf8').catch(() => 'dev')
  return `${DOCUMENT_VERSION}.${print.slice(0, 12)}`
}
