import { execSync } from 'node:child_process'
import { existsSync, readFileSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { describe, expect, it } from 'vitest'

const ROOT = fileURLToPath(new URL('..', import.meta.url))
const CODE = /^(core|studio|server|runtime|cli|node|headless|demo)\/.*(?<!\.test)\.tsx?$/
const ENDINGS = ['', '.ts', '.tsx', '/index.ts', '/index.tsx']

const isFile = (path: string): boolean =>
  existsSync(join(ROOT, path)) && statSync(join(ROOT, path)).isFile()

/** The files of the project with those that each imports, types included. */
function imports(): Map<string, string[]> {
  const files = execSync('git ls-files --cached --others --exclude-standard', { cwd: ROOT })
    .toString()
    .split('\n')
    .filter((file) => CODE.test(file) && isFile(file))
  return new Map(
    files.map((file) => [
      file,
      [...readFileSync(join(ROOT, file), 'utf8').matchAll(/\bfrom '(\.[^']*)'/g)].flatMap(
        ([, path]) =>
          ENDINGS.map((ending) => join(dirname(file), path!) + ending).find(isFile) ?? [],
      ),
    ]),
  )
}

/** The circles of a graph, each as its members in order of their names. */
function circlesIn(graph: ReadonlyMap<string, readonly string[]>): string[][] {
  const reachable = (from: string): Set<string> => {
    const seen = new Set<string>()
    const waiting = [...(graph.get(from) ?? [])]
    for (let next = waiting.pop(); next !== undefined; next = waiting.pop())
      if (!seen.has(next)) {
        seen.add(next)
        waiting.push(...(graph.get(next) ?? []))
      }
    return seen
  }
  const reach = new Map([...graph.keys()].map((name) => [name, reachable(name)]))
  const circles = [...graph.keys()]
    .filter((name) => reach.get(name)!.has(name))
    .map((name) => [...reach.get(name)!].filter((other) => reach.get(other)?.has(name)).sort())
  return [...new Map(circles.map((circle) => [circle.join(), circle])).values()]
}

describe('imports', () => {
  const graph = imports()
  it('are read: most files import others', () => {
    const importing = [...graph.values()].filter((others) => others.length > 0)
    expect(graph.size).toBeGreaterThan(400)
    expect(importing.length).toBeGreaterThan(graph.size * 0.7)
  })
  it('form no circle of files', () => expect(circlesIn(graph)).toEqual([]))
  it.each(['core', 'studio'])('form no circle of folders in %s/', (place) => {
    const folders = new Map<string, string[]>()
    const folderOf = (file: string): string => file.split('/').slice(0, 2).join('/')
    for (const [file, others] of graph) {
      if (!file.startsWith(`${place}/`) || file.includes('/testing/')) continue
      const outside = others
        .filter((other) => other.startsWith(`${place}/`) && folderOf(other) !== folderOf(file))
        .map(folderOf)
      folders.set(folderOf(file), [...(folders.get(folderOf(file)) ?? []), ...outside])
    }
    expect(circlesIn(folders)).toEqual([])
  })
  it('would be found in circles, with their members', () => {
    const found = circlesIn(
      new Map([
        ['a', ['b']],
        ['b', ['c']],
        ['c', ['a']],
        ['d', ['a']],
      ]),
    )
    expect(found).toEqual([['a', 'b', 'c']])
  })
})
