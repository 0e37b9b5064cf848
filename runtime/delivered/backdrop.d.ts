/**
 * Runs the backdrop of a region (an element with the class `tln-region` and Telon's markup inside)
 * and returns how to release it. Importing the module already runs every region of the page and
 * those that appear later; a region runs once, so calling this as well does no harm.
 */
export declare function mount(region: HTMLElement): () => void

/** Releases a region that runs: its clip pauses and nothing listens any more. */
export declare function unmount(region: HTMLElement): void

declare global {
  interface HTMLElementEventMap {
    /** The clip has started or goes on. */
    'tln:play': CustomEvent<null>
    /** The clip has stopped: by the visitor, out of view, in a hidden tab, or at its end. */
    'tln:pause': CustomEvent<null>
    /** The poster is shown instead of the clip. */
    'tln:poster': CustomEvent<null>
    /** The machine is too slow for all particles: how many are left, 0 for their first picture. */
    'tln:fewer': CustomEvent<number>
  }
}
