import type { ContainerError } from '../bytes/ContainerError'
import { assertNever } from '../result'

const EXPORT = 'Export it again as MP4 with H.264, or as WebM with VP9.'

/** What happened and what to do, in one or two sentences for the designer. */
export function describeContainerError(error: Pick<ContainerError, 'code' | 'subject'>): string {
  switch (error.code) {
    case 'media/empty':
      return 'The file is empty. Check that its copy or download has finished, then add it again.'
    case 'media/unknown-format':
      return `This is neither a clip nor an image that Telon can read (MP4, MOV, WebM, MKV; JPEG, PNG, WebP, AVIF, GIF, SVG). Export a clip as MP4 with H.264, an image as JPEG or PNG.`
    case 'media/image':
      return `This is an image (${error.subject}), not a clip. Add a video file instead: MP4, MOV, WebM or MKV.`
    case 'media/image-unsupported':
      return `This is a ${error.subject} image, which browsers do not show. Export it as JPEG, PNG, WebP or AVIF.`
    case 'media/truncated':
      return 'The file ends too early: part of it is missing. Copy or download it again, then add it again.'
    case 'media/bad-size':
    case 'media/bad-value':
    case 'media/too-deep':
      return `Telon cannot read the index of this file: parts of it contradict each other. ${EXPORT}`
    case 'media/index-missing':
      return `The file has no index, as happens when a recording was interrupted. Repair it in the program that recorded it, or export it again.`
    case 'media/index-too-large':
      return `The index of this file is larger than any usable clip needs. Cut the clip shorter, then export it again.`
    case 'media/no-video':
      return 'The file holds sound but no picture. Add a file with a video track.'
    case 'media/no-frames':
      return `The video track holds no frames. ${EXPORT}`
    case 'media/codec-unsupported':
      return `The picture is coded as ${error.subject}, which this browser cannot decode. ${EXPORT}`
    case 'media/hdr':
      return `The clip is HDR (${error.subject}); in delivered files, which are SDR, its colours would be wrong. Export it as SDR (BT.709), as MP4 with H.264.`
    case 'media/repair-unsupported':
      return error.subject.startsWith('sound')
        ? 'The sound cannot be copied into another container. Remove it: delivered files never have sound.'
        : `This cannot be done without encoding again (${error.subject}). Choose another container, or export the file again.`
    case 'media/repair-range':
      return 'There are no frames between this start and end. Choose an end after the start, within the clip.'
    case 'media/encrypted':
      return 'The file is copy-protected (encrypted), so its frames cannot be read. Use a file without protection.'
    default:
      return assertNever(error.code)
  }
}
