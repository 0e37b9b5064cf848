import type { Definition } from './Definition'

/** What of a definition decides what a frame costs: not colours, directions or the seed. */
export const costingParts = ({
  perMegapixel,
  most,
  shapes,
  size,
  depth,
  links,
  blend,
}: Definition) => [perMegapixel, most, shapes, size, depth, links, blend]
