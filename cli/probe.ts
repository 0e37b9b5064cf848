import { probeErrorLine, probeLineOf, type ProbeLine } from '../core/api/probeLine'
import { probe } from '../core/media/probe'
import { refusalOf } from '../core/media/refusal'
import { openFileSource } from '../headless/fileSource'

/** What `telon probe` prints of a file, one JSON object a line. */
export async function probeLine(
  path: string,
  shownName: string,
): Promise<{ line: string; ok: boolean }> {
  const line = await probeFile(path, shownName)
  return { line: JSON.stringify(line), ok: line.error === undefined }
}

async function probeFile(path: string, file: string): Promise<ProbeLine> {
  try {
    const source = await openFileSource(path)
    try {
      const read = await probe(source)
      if (!read.ok) return probeErrorLine(file, read.error)
      const line = probeLineOf(file, read.value)
      // The command line's Chromium, Debian's, does not decode HEVC.
      const refusal = read.value.kind === 'clip' ? refusalOf(read.value.video, false) : null
      return refusal ? { ...line, ...probeErrorLine(file, refusal) } : line
    } finally {
      await source.close()
    }
  } catch (error) {
    const told = fileProblem(error)
    if (!told) throw error
    return { file, error: told }
  }
}

/** Why a file cannot be opened, in words; null for errors that are not about the file. */
export function fileProblem(error: unknown): { code: string; message: string } | null {
  const code = (error as NodeJS.ErrnoException).code
  if (code === 'ENOENT')
    return { code: 'file/not-found', message: 'There is no file of this name. Check the path.' }
  if (code === 'EISDIR')
    return { code: 'file/is-folder', message: 'This is a folder. Name the files in it.' }
  if (code === 'EACCES')
    return { code: 'file/no-access', message: 'The file cannot be read. Check its permissions.' }
  return null
}
