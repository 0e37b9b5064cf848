/** What can go wrong with a request, as far as the caller can act on it. One table gives status and wording. */
const ERRORS = {
  'request/invalid': [400, 'The request does not have the expected form. The details say which field.'],
  'request/origin': [403, 'Requests from other sites are not taken.'],
  'request/too-large': [413, 'The file is larger than a rendition may be.'],
  'route/not-found': [404, 'There is nothing at this address.'],
  'project/not-found': [404, 'This project no longer exists. Go back to the list of projects.'],
  'page/not-found': [404, 'This page no longer exists. Reload the project.'],
  'spot/not-found': [404, 'This spot no longer exists. Reload the project.'],
  'source/not-found': [404, 'This source is no longer on the shelf. Reload the shelf.'],
  'source/in-use': [409, 'This source is used by a backdrop. Swap its clip or delete the backdrop first.'],
  'source/other-kind': [409, 'A clip can only be replaced by a clip, a still by a still.'],
  'source/no-undo': [409, 'The earlier file is no longer kept, so this cannot be undone.'],
  'source/mend': [422, 'This cannot be mended.'],
  'set/not-found': [404, 'This set no longer exists. Reload the shelf.'],
  'backdrop/not-found': [404, 'This backdrop no longer exists. Go back to the project.'],
  'backdrop/conflict': [409, 'This backdrop was changed in another tab. Choose which version goes on.'],
  'media/not-found': [404, 'The file is not here. Make it again from the workbench.'],
  'media/range': [416, 'The requested range lies outside the file.'],
  'handoff/not-ready': [409, 'Some files of this handoff are not made yet. Make them in the workbench, then hand off.'],
  'upload/not-found': [404, 'This upload is no longer known. Add the file again.'],
  'upload/too-large': [413, 'The file is larger than uploads may be.'],
  'upload/unusable': [422, 'The file cannot be used.'],
} as const satisfies Record<string, readonly [number, string]>

export type ApiErrorCode = keyof typeof ERRORS

/** An expected failure of a request; the error middleware alone turns it into an answer. */
export class ApiError extends Error {
  override readonly name = 'ApiError'
  readonly code: ApiErrorCode
  readonly details: unknown

  constructor(code: ApiErrorCode, details?: unknown, message: string = ERRORS[code][1]) {
    super(message)
    this.code = code
    this.details = details
  }

  get status(): number {
    return ERRORS[this.code][0]
  }
}
