/**
 * What can go wrong with a request, grouped by what the caller can do about it. One table gives
 * status and wording.
 */
const ERRORS = {
  'request/invalid': [
    400,
    'The request does not have the expected form. The details say which field.',
  ],
  'request/not-json': [415, 'This address takes JSON only: send Content-Type: application/json.'],
  'request/origin': [403, 'Requests from other sites are refused.'],
  'request/host': [
    421,
    'This server does not answer under this host name. Add the name to TELON_HOSTS to allow it.',
  ],
  'request/too-large': [413, 'The request is larger than allowed.'],
  'request/outdated': [
    409,
    'Something this refers to was changed or deleted meanwhile. Reload the page, then try again.',
  ],
  'request/method': [405, 'This address does not take this method.'],
  'access/sign-in': [401, 'Sign in to continue. Nothing that was not saved yet is lost.'],
  'access/wrong-password': [401, 'The password is not right. Try again.'],
  'access/too-many-tries': [429, 'Too many tries. Wait a minute, then try again.'],
  'access/token': [401, 'This API token is not known. Make a new one under Access.'],
  'access/token-not-found': [404, 'This API token no longer exists. Reload the list.'],
  'route/not-found': [404, 'There is nothing at this address.'],
  'project/not-found': [404, 'This project no longer exists. Go back to the list of projects.'],
  'settings/too-many-paints': [422, 'A project keeps 24 paints at most. Delete one first.'],
  'settings/too-many-colors': [
    422,
    'A project keeps 64 colours and 16 typefaces at most. Delete some first, or import fewer.',
  ],
  'page/not-found': [404, 'This page no longer exists. Reload the project.'],
  'spot/not-found': [404, 'This spot no longer exists. Reload the project.'],
  'source/not-found': [404, 'This source is no longer on the shelf. Reload the shelf.'],
  'source/in-use': [
    409,
    'This source is used by a backdrop. Replace it there, or delete the backdrop first.',
  ],
  'source/other-kind': [409, 'A clip can only be replaced by a clip, an image by an image.'],
  'source/not-image': [409, 'A slideshow is made of images. Leave the clips out.'],
  'source/no-undo': [409, 'The earlier file is no longer kept, so this cannot be undone.'],
  'source/repair': [422, 'This cannot be repaired.'],
  'set/not-found': [404, 'This set no longer exists. Reload the shelf.'],
  'backdrop/not-found': [404, 'This backdrop no longer exists. Go back to the project.'],
  'backdrop/conflict': [
    409,
    'This backdrop was changed in another tab. Choose which version to keep.',
  ],
  'backdrop/unknown-source': [
    422,
    'The backdrop refers to a source that is not on this project’s shelf. Choose another source.',
  ],
  'revision/not-found': [404, 'This revision is no longer kept. Reload the list of revisions.'],
  'rendition/not-found': [404, 'This file is no longer expected. Render it again.'],
  'rendition/mismatch': [422, 'The file is not what its recipe says. Render it again.'],
  'media/not-found': [404, 'The file is not here. Render it again in the workbench.'],
  'media/range': [416, 'The requested range lies outside the file.'],
  'handoff/not-ready': [
    409,
    'Some files of this handoff are not rendered yet. Render them in the workbench, then hand off.',
  ],
  'upload/not-found': [404, 'This upload is no longer known. Add the file again.'],
  'upload/too-large': [413, 'The file is larger than uploads may be.'],
  'upload/unusable': [422, 'The file cannot be used.'],
  'upload/damaged': [
    422,
    'The file arrived damaged: its checksum differs from yours. Nothing was added; add the file again.',
  ],
  'upload/finishing': [423, 'The upload is complete and is being checked. Ask again in a moment.'],
  'upload/offset': [
    409,
    'This part does not continue where the upload stopped. Ask for the offset, then continue there.',
  ],
  'particles/busy': [409, 'Particles are being tried already. Wait half a minute, then try again.'],
  'particles/ended': [409, 'The try was ended.'],
  'particles/failed': [
    500,
    'The browser on the server could not be started, or stopped. Try again; its log tells more.',
  ],
  'particles/no-browser': [
    501,
    'This server has no browser to try particles with. Install Chromium on it, then try again.',
  ],
  'work/version': [
    409,
    'This render worker is of another version of Telon than the server. Update it, then start it again.',
  ],
  'work/unknown-worker': [404, 'This render worker is not known. Say hello again.'],
  'work/not-stored': [409, 'The file of this job is not stored. Store it first.'],
  'access/worker': [403, 'This token is for render workers: it can do nothing else.'],
  'space/busy': [409, 'Space is being freed already. Wait until it has finished, or cancel it.'],
  'storage/full': [
    507,
    'The disk of the database is full, so nothing was stored. Free space on the server, then try again; what was sent so far is kept.',
  ],
  'storage/incomplete': [500, 'The stored file is not complete. Add it again.'],
  'database/unavailable': [
    503,
    'The database does not answer at the moment. Nothing was changed; try again in a few seconds.',
  ],
  'server/stopping': [503, 'The server is restarting. Try again in a few seconds.'],
} as const satisfies Record<string, readonly [number, string]>

export type ApiErrorCode = keyof typeof ERRORS

/** Seconds after which a caller should try again, for errors that pass by themselves. */
const RETRY_AFTER_SECONDS: Partial<Record<ApiErrorCode, number>> = {
  'database/unavailable': 2,
  'server/stopping': 2,
  'upload/finishing': 1,
  'access/too-many-tries': 60,
}

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

  get retryAfterSeconds(): number | null {
    return RETRY_AFTER_SECONDS[this.code] ?? null
  }

  /** The body of the answer. */
  get body(): { error: { code: ApiErrorCode; message: string; details?: unknown } } {
    const { code, message, details } = this
    return { error: { code, message, ...(details === undefined ? {} : { details }) } }
  }
}
