import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { elementCount } from '../elements'
import { particleData, prepare } from '../prepare'
import { readDefinition } from '../readDefinition'
import { STYLE_GROUPS, styleOf, STYLES } from '.'

const FOLDER = new URL('.', import.meta.url)
const FILES = readdirSync(FOLDER).filter((name) => name.endsWith('.json'))

describe('the styles of particles', () => {
  it('are the files of their folder, at least sixteen, in four groups', () => {
    expect(STYLES.map(({ id }) => `${id}.json`).sort()).toEqual([...FILES].sort())
    expect(STYLES.length).toBeGreaterThanOrEqual(16)
    for (const group of STYLE_GROUPS)
      expect(STYLES.filter((style) => style.group === group).length).toBeGreaterThanOrEqual(4)
  })
  it.each(FILES)('%s can be read as anybody else’s definition', (name) => {
    const read = readDefinition(readFileSync(new URL(name, FOLDER), 'utf8'))
    expect(read).toMatchObject({ ok: true })
    expect(styleOf(name.replace('.json', ''))?.definition).toEqual(read.ok && read.value)
  })
  it('have names of their own', () =>
    expect(new Set(STYLES.map(({ definition }) => definition.name)).size).toBe(STYLES.length))
  it.each(STYLES)('$id is light: few elements on a laptop, little data', ({ definition }) => {
    const laptop = elementCount(prepare(definition), { width: 1280, height: 720 })
    expect(laptop).toBeGreaterThanOrEqual(15)
    expect(laptop).toBeLessThanOrEqual(600)
    expect(particleData(definition).length).toBeLessThan(1600)
  })
})
