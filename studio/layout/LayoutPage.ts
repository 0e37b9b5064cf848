import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { SCREEN_NAMES, SCREENS, type ScreenName } from '../../core/fit/screens'
import { emitRegion } from '../../core/handoff/emitMarkup'
import { emitBackdropStyle, emitCopyStyle, emitPageStyle } from '../../core/handoff/emitStyle'
import { kindOf, type Base } from '../../core/kinds'
import type { DeliveredMedia } from '../../core/kinds/DeliveredMedia'
import type { ScreenLayout } from '../../core/legibility/TextPlace'
import { textPlaces } from './textPlaces'

const ID = 'layout'
/** Copy lies where it does, whatever is behind it. */
const NO_MEDIA: DeliveredMedia = { clips: [], posters: [], placeholder: null }

export type ScreenLayouts = Readonly<Record<ScreenName, ScreenLayout>>

/**
 * A page that nobody sees: the markup and style that are delivered, laid out on every screen in
 * turn. Where copy is there is read, never estimated.
 */
export class LayoutPage {
  private readonly frame: HTMLIFrameElement
  private readonly ready: Promise<void>
  private style: CSSStyleSheet | null = null

  /** `address` is that of the empty page. */
  constructor(host: HTMLElement, address = '/stage.html') {
    this.frame = host.ownerDocument.createElement('iframe')
    this.frame.title = 'Layout of the copy'
    this.frame.tabIndex = -1
    this.frame.src = address
    // Not `display: none`: that has no layout.
    this.frame.style.cssText = 'position:absolute;left:0;top:0;border:0;visibility:hidden'
    this.ready = new Promise((resolve) =>
      this.frame.addEventListener('load', () => resolve(), { once: true }),
    )
    host.append(this.frame)
  }

  /** What lies in front of a document on each screen. */
  async measure(document: BackdropDocument): Promise<ScreenLayouts> {
    await this.ready
    const page = this.frame.contentDocument!
    this.setStyle(
      [
        emitPageStyle(document),
        emitBackdropStyle(ID, document, NO_MEDIA),
        emitCopyStyle(ID, document, NO_MEDIA),
      ].join('\n'),
    )
    // From our own emitter, which escapes every word of the document.
    page.body.innerHTML = emitRegion(ID, document, NO_MEDIA, 'page')
    for (const control of page.querySelectorAll<HTMLElement>('.tln-pause, .tln-controls'))
      control.hidden = false
    // Letters of another face are of another width; it is fetched when they are first laid out.
    void page.body.offsetHeight
    await page.fonts.ready
    return Object.fromEntries(
      SCREEN_NAMES.map((name) => [name, this.on(page, document.base, name)]),
    ) as unknown as ScreenLayouts
  }

  close(): void {
    this.frame.remove()
  }

  private setStyle(text: string): void {
    const page = this.frame.contentDocument!
    if (!this.style) {
      const view = this.frame.contentWindow as Window & typeof globalThis
      this.style = new view.CSSStyleSheet()
      page.adoptedStyleSheets = [...page.adoptedStyleSheets, this.style]
    }
    this.style.replaceSync(text)
  }

  private on(page: Document, base: Base, name: ScreenName): ScreenLayout {
    const { width, height } = SCREENS[name]
    this.frame.style.width = `${width}px`
    this.frame.style.height = `${height}px`
    const region = page.querySelector<HTMLElement>('.tln-region')!
    const bounds = region.getBoundingClientRect()
    return {
      region: { width: bounds.width, height: bounds.height },
      texts: textPlaces(page, region, (slides) => kindOf(base).wordTimes?.(base, slides)),
    }
  }
}
