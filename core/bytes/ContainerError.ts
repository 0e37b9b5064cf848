/** Everything that can be wrong with a media file, grouped by what a user can do about it. */
export type ContainerErrorCode =
  | 'media/empty'
  | 'media/unknown-format'
  | 'media/truncated'
  | 'media/bad-size'
  | 'media/bad-value'
  | 'media/too-deep'
  | 'media/index-missing'
  | 'media/index-too-large'
  | 'media/no-video'
  | 'media/no-frames'
  | 'media/codec-unsupported'
  | 'media/hdr'
  | 'media/encrypted'
  | 'media/repair-unsupported'
  | 'media/repair-range'
  | 'media/image'
  | 'media/image-unsupported'

/** Where in the file a problem is, and further details. */
export interface ContainerErrorFacts {
  /** Bytes from the start of the file (or of the structure that was given), when known. */
  readonly offset?: number
  /** The path of the box or element, such as `moov/trak/mdia`. */
  readonly path?: string
  /** The name of the codec, format or field that the message is about. */
  readonly subject?: string
  readonly cause?: unknown
}

/** A media file that cannot be used, identified by a code; `describeContainerError` words it. */
export class ContainerError extends Error {
  override readonly name = 'ContainerError'
  readonly code: ContainerErrorCode
  readonly offset: number | null
  readonly path: string
  readonly subject: string

  constructor(code: ContainerErrorCode, facts: ContainerErrorFacts = {}) {
    super(
      `${code}${facts.subject ? ` (${facts.subject})` : ''}${facts.path ? ` in ${facts.path}` : ''}`,
      { cause: facts.cause },
    )
    this.code = code
    this.offset = facts.offset ?? null
    this.path = facts.path ?? ''
    this.subject = facts.subject ?? ''
  }
}
