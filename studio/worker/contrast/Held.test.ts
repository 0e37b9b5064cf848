import { expect, it } from 'vitest'
import { Held } from './Held'

/* What is remembered of what was measured. */

const held = (): Held<string> => new Held(10, (value) => value.length)

it('has what was remembered, up to so many bytes; what was wanted longest ago goes first', () => {
  const memory = held()
  memory.set('a', 'aaaa')
  memory.set('b', 'bbbb')
  expect(memory.get('a')).toBe('aaaa')
  memory.set('c', 'cc')
  expect(['a', 'b', 'c'].map((name) => memory.get(name))).toEqual(['aaaa', 'bbbb', 'cc'])
  memory.set('d', 'd')
  expect(['a', 'b', 'c', 'd'].map((name) => memory.get(name) ?? null)).toEqual([
    null,
    'bbbb',
    'cc',
    'd',
  ])
})

it('counts what is remembered again once', () => {
  const memory = held()
  for (let turn = 0; turn < 5; turn++) memory.set('a', 'aaaa')
  memory.set('b', 'bbbbbb')
  expect([memory.get('a'), memory.get('b')]).toEqual(['aaaa', 'bbbbbb'])
})

it('does not remember what is larger than all that may be', () => {
  const memory = held()
  memory.set('a', 'a'.repeat(11))
  expect(memory.get('a')).toBeUndefined()
  memory.set('b', 'b'.repeat(10))
  expect(memory.get('b')).toBe('b'.repeat(10))
})
