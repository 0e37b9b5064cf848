/**
 * Runs pieces of work one after another, in the order they come, so that none meets what another
 * has half done. A piece that fails fails alone.
 */
export function inTurn(): <T>(work: () => Promise<T>) => Promise<T> {
  let last: Promise<unknown> = Promise.resolve()
  return <T>(work: () => Promise<T>): Promise<T> => {
    const own = last.then(work, work)
    last = own.catch(() => undefined)
    return own
  }
}
