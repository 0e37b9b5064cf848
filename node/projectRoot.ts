import { fileURLToPath } from 'node:url'

/** The project's folder, from sources and from the build in `dist/server/`. Ends with a slash. */
export const PROJECT_ROOT = fileURLToPath(
  new URL(import.meta.url.endsWith('.ts') ? '..' : '../..', import.meta.url),
)

/** A file or folder of the project. */
export const inProject = (path: string): string => `${PROJECT_ROOT}${path}`
