import { mount, unmount } from './mount'
import { start } from './observe'

/*
 * The plain script (`backdrop.js`): works wherever it is loaded, and offers `tln.mount` and
 * `tln.unmount` to pages that want to do it themselves.
 */

start()

export default { mount, unmount }
