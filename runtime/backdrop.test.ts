import { gzipSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { builtScript } from './testing/builtScript'

describe('the delivered script', async () => {
  const script = await builtScript()
  it('stays under 2.5 kB gzip, and is there', () => {
    expect(script).toContain('tln-poster-only')
    expect(gzipSync(script).byteLength).toBeLessThan(2500)
  })
  it('asks for nothing from elsewhere and makes no code from text', () =>
    expect(script).not.toMatch(/https?:|eval|Function\(|innerHTML|import/))
})
