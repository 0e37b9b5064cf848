import { mount, unmount } from './mount'
import { start } from './observe'

/*
 * The ES module (`backdrop.mjs`). On a server, where components are rendered to text, importing it
 * does nothing.
 */

if (typeof document !== 'undefined') start()

export { mount, unmount }
