import { mount, unmount } from './mount'
import { whenParsed } from './observe'

/*
 * The custom element (`backdrop-element.mjs`): `<tln-region class="tln-region">` around the same
 * markup. The browser tells it when it appears and disappears, so no observer is needed.
 */

if (typeof customElements !== 'undefined' && !customElements.get('tln-region'))
  customElements.define(
    'tln-region',
    class extends HTMLElement {
      connectedCallback(): void {
        whenParsed(() => this.isConnected && mount(this))
      }

      disconnectedCallback(): void {
        unmount(this)
      }
    },
  )

export { mount, unmount }
