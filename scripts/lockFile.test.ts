import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'

interface Locked {
  readonly version?: string
  readonly resolved?: string
  readonly optionalDependencies?: Readonly<Record<string, string>>
}

const read = (name: string): string => readFileSync(new URL(`../${name}`, import.meta.url), 'utf8')
const { packages } = JSON.parse(read('package-lock.json')) as {
  packages: Readonly<Record<string, Locked>>
}

/**
 * Where npm would look for a package from inside another: beside it, then in every folder above.
 */
function isLocked(from: string, name: string): boolean {
  const folders = from.split('/node_modules/')
  return (
    folders.some((_, index) => {
      const above = folders.slice(0, folders.length - index).join('/node_modules/')
      return packages[`${above === '' ? '' : `${above}/`}node_modules/${name}`] !== undefined
    }) || packages[`node_modules/${name}`] !== undefined
  )
}

describe('package-lock.json', () => {
  it('holds the packages of every system, not only of the one it was written on: npm ci refuses it otherwise', () => {
    const missing = Object.entries(packages).flatMap(([place, locked]) =>
      Object.keys(locked.optionalDependencies ?? {})
        .filter((name) => !isLocked(place, name))
        .map((name) => `${name} of ${place}`),
    )
    expect(missing).toEqual([])
    const systems = Object.keys(packages).filter((place) =>
      /darwin-arm64|win32-x64|linux-arm64/.test(place),
    )
    expect(systems.length).toBeGreaterThan(10)
  })
  it('is in step with package.json', () => {
    const { dependencies, devDependencies } = JSON.parse(read('package.json')) as Record<
      string,
      Record<string, string>
    >
    const locked = packages[''] as unknown as Record<string, Record<string, string>>
    expect(locked['dependencies']).toEqual(dependencies)
    expect(locked['devDependencies']).toEqual(devDependencies)
  })
  it('brings no compiler and no loader to a server that runs from a build', () => {
    const running = Object.entries(packages).filter(
      ([, locked]) => !(locked as { dev?: boolean }).dev,
    )
    const names = running.map(([place]) => place.replace(/^.*node_modules\//, ''))
    expect(names).toContain('koa')
    expect(
      names.filter((name) =>
        /^(tsx|typescript|vite|vitest|esbuild|rolldown|@swc\/core|react)$/.test(name),
      ),
    ).toEqual([])
  })
  it('names no registry', () =>
    expect(Object.values(packages).filter((each) => each.resolved?.startsWith('http'))).toEqual([]))
})
