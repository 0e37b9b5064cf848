/**
 * Refuses files that are dropped where nothing takes them: browsers would leave the page and open
 * them. Returns how to stop.
 */
export function refuseStrayFiles(target: EventTarget): () => void {
  const refuse = (event: Event): void => {
    const { dataTransfer } = event as DragEvent
    if (event.defaultPrevented || !dataTransfer?.types.includes('Files')) return
    event.preventDefault()
    dataTransfer.dropEffect = 'none'
  }
  const types = ['dragover', 'drop']
  types.forEach((type) => target.addEventListener(type, refuse))
  return () => types.forEach((type) => target.removeEventListener(type, refuse))
}
