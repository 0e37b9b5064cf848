import { describeContainerError } from '../core/media/describeContainerError'
import { probe } from '../core/media/probe'
import { openFileSource } from './fileSource'

/** What `telon probe` prints of a file, one JSON object a line. */
export async function probeLine(path: string, shownName: string): Promise<{ line: string; ok: boolean }> {
  const result = await probeFile(path)
  return { line: JSON.stringify({ file: shownName, ...result }), ok: !('error' in result) }
}

async function probeFile(path: string): Promise<object> {
  try {
    const source = await openFileSource(path)
    try {
      const read = await probe(source)
      if (!read.ok) return { error: { code: read.error.code, message: describeContainerError(read.error) } }
      const { container, bytes, durationMs, video, audio, indexFirst } = read.value
      const { codec, displayWidth, displayHeight, rotationDeg, averageFps, frameCount } = video
      return { container, bytes, durationMs, video: { codec, displayWidth, displayHeight, rotationDeg, averageFps, frameCount }, audio, indexFirst }
    } finally {
      await source.close()
    }
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code
    if (code === 'ENOENT') return { error: { code: 'file/not-found', message: 'There is no file of this name. Check the path.' } }
    if (code === 'EISDIR') return { error: { code: 'file/is-folder', message: 'This is a folder. Name the files in it.' } }
    if (code === 'EACCES') return { error: { code: 'file/no-access', message: 'The file may not be read. Check its permissions.' } }
    throw error
  }
}
