import { describe, expect, it } from 'vitest'
import { withNewNames } from './oldNames'

const rename = (...args: string[]): { args: string[]; warnings: string[] } => {
  const warnings: string[] = []
  return { args: withNewNames(args, (line) => warnings.push(line)), warnings }
}

describe('old names on the command line', () => {
  it.each([
    [
      ['mend', 'a.mov', '--out', 'mend'],
      ['repair', 'a.mov', '--out', 'mend'],
      /^mend is now called repair/,
    ],
    [['deliver', '--denoise', '0.5'], ['deliver', '--noise-reduction', '0.5'], /^--denoise is now/],
    [['deliver', '--denoise=0.5'], ['deliver', '--noise-reduction=0.5'], /^--denoise is now/],
    [['deliver', '--seam', 'there-and-back'], ['deliver', '--seam', 'ping-pong'], /ping-pong/],
    [['deliver', '--seam=there-and-back'], ['deliver', '--seam=ping-pong'], /ping-pong/],
  ])('%j still work, with a warning', (old, now, warning) => {
    const renamed = rename(...old)
    expect(renamed.args).toEqual(now)
    expect(renamed.warnings).toEqual([expect.stringMatching(warning)])
  })
  it('leaves everything else as it is', () => {
    const args = [
      'deliver',
      'there-and-back.mp4',
      '--heading',
      '--denoise it=well',
      '--seam',
      'blended',
    ]
    expect(rename(...args)).toEqual({ args, warnings: [] })
  })
})
