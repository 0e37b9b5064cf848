/** What can go wrong while decoding or encoding, grouped by what a user can do about it. */
export type WorkErrorCode =
  | 'work/cancelled'
  | 'work/cannot-decode'
  | 'work/decode-failed'
  | 'work/stalled'
  | 'work/cannot-encode'
  | 'work/unreadable'
  | 'work/fault'

const MESSAGES: Record<WorkErrorCode, string> = {
  'work/cancelled': 'Stopped.',
  'work/cannot-decode':
    'This browser cannot decode the clip. Export it again as MP4 with H.264, or as WebM with VP9.',
  'work/decode-failed':
    'The clip cannot be decoded in this browser. Export it again as MP4 with H.264 and replace it on the shelf.',
  'work/stalled':
    'The decoder gave no picture within five seconds. Export the clip again as MP4 with H.264 and replace it on the shelf.',
  'work/cannot-encode':
    'This browser cannot encode the format. Use a current Chromium-based browser, or switch the format off under Weight.',
  'work/unreadable':
    'The clip could not be read. Check that the server is running, then try again.',
  'work/fault':
    'Something unexpected went wrong with the clip. Try again; if it happens again, reload the page.',
}

/** An expected failure of the media worker. */
export class WorkError extends Error {
  override readonly name = 'WorkError'
  readonly code: WorkErrorCode

  constructor(code: WorkErrorCode, message: string = MESSAGES[code], cause?: unknown) {
    super(message, { cause })
    this.code = code
  }
}
