import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { DOCUMENT_VERSION } from '../core/backdrop/BackdropDocument'

/**
 * What tells one version of Telon from another: the version of documents, and the digest of the
 * sources that the build was made from (`dev` where nothing was built). The studio of the same
 * build knows the same text.
 */
export async function versionOf(dist: string): Promise<string> {
  const print = await readFile(join(dist, '.telon-sources'), 'utf8').catch(() => 'dev')
  return `${DOCUMENT_VERSION}.${print.slice(0, 12)}`
}
