import { readFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'

describe('the delivered script', () => {
  const script = readFileSync(new URL('../dist/runtime/backdrop.js', import.meta.url))
  it('stays under 2.5 kB gzip, and is there', () => {
    expect(script.toString()).toContain('tln-only-still')
    expect(gzipSync(script).byteLength).toBeLessThan(2500)
  })
  it('asks for nothing from elsewhere and makes no code from text', () =>
    expect(script.toString()).not.toMatch(/https?:|eval|Function\(|innerHTML|import/))
})
