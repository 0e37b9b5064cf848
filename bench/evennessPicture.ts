const WIDTH = 760
const HEIGHT = 300
const FRAME = { left: 46, right: 16, top: 44, bottom: 34 }

/**
 * Two curves of decibels over the frames of a loop, each played twice so that the loop point is
 * visible: an SVG.
 */
export function evennessPicture(
  title: string,
  ours: readonly number[],
  theirs: readonly number[],
  framesPerSecond: number,
): string {
  const twice = [ours, theirs].map((values) => [...values, ...values])
  const all = twice.flat()
  const [low, high] = [Math.floor(Math.min(...all)), Math.ceil(Math.max(...all))]
  const count = twice[0]!.length
  const x = (k: number): number =>
    FRAME.left + (k / (count - 1)) * (WIDTH - FRAME.left - FRAME.right)
  const y = (decibels: number): number =>
    FRAME.top + ((high - decibels) / (high - low)) * (HEIGHT - FRAME.top - FRAME.bottom)
  const line = (values: readonly number[]): string =>
    values
      .map((value, k) => `${k === 0 ? 'M' : 'L'}${x(k).toFixed(1)} ${y(value).toFixed(1)}`)
      .join('')
  const step = Math.max(1, Math.ceil((high - low) / 5))
  const rules = Array.from(
    { length: Math.floor((high - low) / step) + 1 },
    (_, index) => low + index * step,
  )
  const seconds = Array.from(
    { length: Math.floor(count / framesPerSecond / 2) + 1 },
    (_, index) => index * 2,
  )
  const join = x(count / 2)
  return (
    [
      `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" role="img" aria-labelledby="title"><title id="title">${title}</title>`,
      '<style>text{font:12.5px system-ui,sans-serif;fill:#625a4d}.h{font-weight:600;fill:#26221c}.o{fill:none;stroke:#9c1c35;stroke-width:2}.v{fill:none;stroke:#54406b;stroke-width:1.6;stroke-dasharray:5 3}.g{stroke:#d9d1c1}</style>',
      `<rect width="${WIDTH}" height="${HEIGHT}" fill="#fbf8f2"/><text x="${FRAME.left}" y="20" class="h">${title}, played twice</text>`,
      ...rules.map(
        (decibels) =>
          `<path class="g" d="M${FRAME.left} ${y(decibels).toFixed(1)}H${WIDTH - FRAME.right}"/><text x="${FRAME.left - 6}" y="${(y(decibels) + 4).toFixed(1)}" text-anchor="end">${decibels}</text>`,
      ),
      ...seconds.map(
        (second) =>
          `<text x="${x(Math.min(count - 1, second * framesPerSecond)).toFixed(1)}" y="${HEIGHT - 12}" text-anchor="middle">${second} s</text>`,
      ),
      `<path class="g" d="M${join.toFixed(1)} ${FRAME.top}V${HEIGHT - FRAME.bottom}" stroke-dasharray="2 3"/><text x="${(join - 5).toFixed(1)}" y="${HEIGHT - FRAME.bottom - 6}" text-anchor="end">join</text>`,
      `<path class="v" d="${line(twice[1]!)}"/><path class="o" d="${line(twice[0]!)}"/>`,
      `<path class="o" d="M${FRAME.left + 4} 35h26"/><text x="${FRAME.left + 36}" y="39">Telon</text><path class="v" d="M${FRAME.left + 90} 35h26"/><text x="${FRAME.left + 122}" y="39">the browser’s own variable rate, at equal bytes</text></svg>`,
    ].join('\n') + '\n'
  )
}
