/** The style sheets of a backdrop: its own, and the one of its copy. */
export function styleNames(id: string): { backdrop: string; copy: string } {
  return { backdrop: `backdrop-${id}.css`, copy: `copy-${id}.css` }
}
