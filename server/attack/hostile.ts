/*
 * What no honest client sends: values, addresses and headers that broke servers before. All of it
 * is drawn by lot from a seed.
 */

/** Numbers from 0 to below 1. */
export type Draw = () => number

export const pick = <T>(draw: Draw, items: readonly T[]): T =>
  items[Math.floor(draw() * items.length)]!

const DEEP = '['.repeat(5000) + ']'.repeat(5000)

/** JSON texts, not values: some of them no parser gives back. */
const VALUES = [
  'null',
  'true',
  '0',
  '-1',
  '1e308',
  '1e309',
  '-1e309',
  '2147483647',
  '2147483648',
  '9007199254740993',
  '0.1',
  '""',
  '"x"',
  '[]',
  '{}',
  '[[]]',
  '"a\\u0000b"',
  '"\\ud800"',
  '"\\udc00x"',
  '"../../etc/passwd"',
  '"%00"',
  '"\'; DROP TABLE projects; --"',
  '"${7*7}"',
  '"<script>"',
  '"__proto__"',
  '{"__proto__":{"polluted":true}}',
  '{"constructor":{"prototype":{"x":1}}}',
  '"7b1f8c1e-0000-4000-8000-000000000009"',
  `"${'x'.repeat(10_000)}"`,
  `[${'0,'.repeat(20_000)}0]`,
  DEEP,
  '"2026-13-45T99:99:99Z"',
  '"NaN"',
  '"🚆"',
  '-0',
  '[null]',
  '{"":""}',
]

/** A text of JSON in which some values were replaced by hostile ones. */
export function hostileJson(draw: Draw, valid: unknown): string {
  const text = JSON.stringify(valid ?? {})
  if (draw() < 0.1)
    return pick(draw, [
      '',
      '{',
      'not json',
      '\0',
      '"',
      '[1,',
      '﻿{}',
      text.slice(0, Math.floor(draw() * text.length)),
      DEEP,
    ])
  const places = placesOf(valid ?? {})
  const marked = structuredClone({ root: valid ?? {} })
  for (let times = 1 + Math.floor(draw() * 3); times > 0; times--) {
    const path = pick(draw, places)
    setAt(marked, ['root', ...path], `@@${Math.floor(draw() * VALUES.length)}@@`)
  }
  return JSON.stringify(marked.root).replaceAll(
    /"@@(\d+)@@"/g,
    (_, index: string) => VALUES[Number(index)]!,
  )
}

/** The paths of all values in a JSON value, its own among them. */
function placesOf(value: unknown, path: readonly string[] = []): string[][] {
  const inner = typeof value === 'object' && value !== null ? Object.entries(value) : []
  return [
    [...path],
    ...inner.slice(0, 60).flatMap(([name, each]) => placesOf(each, [...path, name])),
  ]
}

function setAt(value: unknown, path: readonly string[], to: unknown): void {
  let here = value
  for (const name of path.slice(0, -1)) here = (here as Record<string, unknown> | undefined)?.[name]
  const last = path[path.length - 1]
  // A place inside of what was replaced already is gone.
  if (typeof here === 'object' && here !== null && last !== undefined)
    (here as Record<string, unknown>)[last] = to
}

const SEGMENTS = [
  'no-id',
  '%zz',
  '%',
  '%00',
  '%ff',
  '%c0%80',
  '..',
  '%2e%2e',
  '..%2f..%2fetc%2fpasswd',
  'a%2fb',
  '%F0%9F%9A%86',
  '-1',
  '9e99',
  '00000000-0000-0000-0000-000000000000',
  '7b1f8c1e-0000-4000-8000-000000000009',
  '7B1F8C1E-0000-4000-8000-000000000009',
  'undefined',
  '[object%20Object]',
  '__proto__',
  "';--",
  ' ',
  '%20',
  'x'.repeat(3000),
  'a'.repeat(64),
  '0'.repeat(64),
  '2147483648',
  '1.5',
]
export const hostileSegment = (draw: Draw): string => pick(draw, SEGMENTS)

const QUERIES = [
  '',
  'limit=1e9',
  'limit=-1',
  'limit=0',
  'offset=99999999999999999999',
  'search=%00',
  'search=%ff',
  'search=%25%25',
  'sort=x',
  'set=x',
  'wide=NaN',
  'limit=1&limit=2',
  'kind[]=clip',
  '__proto__=1',
  'type=text/html',
  '%zz=%zz',
  'search=' + 'x'.repeat(5000),
  'search=%F0%9F%9A%86',
  'findings=some&sort=duration&orientation=square&wide=20000',
]
export const hostileQuery = (draw: Draw): string => pick(draw, QUERIES)

const HEADERS: readonly (readonly [string, readonly string[]])[] = [
  [
    'Range',
    [
      'bytes=0-',
      'bytes=-0',
      'bytes=5-2',
      'bytes=a-b',
      'bytes=0-0,2-2,4-4',
      `bytes=${'9'.repeat(300)}-`,
      'bytes=-99999999999',
      'lines=1-2',
      'bytes=',
      'bytes=--1',
    ],
  ],
  ['If-None-Match', ['*', '"x"', 'W/"x"', '"', ',,,,', '"'.repeat(500)]],
  ['If-Range', ['"x"', 'Wed, 99 Abc 9999', '']],
  ['Accept', ['*/*;q=9', '', 'x'.repeat(2000)]],
  [
    'Authorization',
    [
      'Bearer',
      'Bearer x',
      `Bearer tln_${'A'.repeat(43)}`,
      'Basic eDp4',
      `Bearer ${'x'.repeat(4000)}`,
    ],
  ],
  [
    'Cookie',
    [
      'telon_session=',
      'telon_session=%zz',
      `telon_session=${'x'.repeat(4000)}`,
      '=;=;=',
      'a=b; telon_session="x"',
    ],
  ],
  [
    'Content-Type',
    [
      'text/plain',
      'application/json; charset=utf-16',
      'application/json;;;',
      'multipart/form-data; boundary=x',
      'application/offset+octet-stream',
      '',
    ],
  ],
  ['Content-Encoding', ['gzip', 'br', 'x']],
  ['Tus-Resumable', ['1.0.0', '0.0.0', '']],
  ['Upload-Length', ['0', '-1', '1e9', '99999999999999999999', 'NaN', '10', '5000000000']],
  ['Upload-Offset', ['0', '-1', '1.5', '99999999999999999999', 'x', '10']],
  ['Upload-Defer-Length', ['1', '2']],
  ['Upload-Concat', ['partial', 'final;/api/uploads/x', 'x']],
  [
    'Upload-Metadata',
    [
      '',
      'filename',
      'filename eA==,filename eA==',
      'filename ???',
      ',,,',
      `filename ${'eA'.repeat(3000)}`,
      'filename AA==,projectId AA==',
      '__proto__ eA==',
    ],
  ],
  ['Repr-Digest', ['sha-256=:x:', `sha-256=:${'A'.repeat(43)}=:`, 'x'.repeat(3000), 'md5=:AA==:']],
  ['Expect', ['100-continue', 'x']],
  ['X-HTTP-Method-Override', ['DELETE', 'x']],
  ['X-Forwarded-Host', ['evil.example', '']],
  ['X-Forwarded-For', ['127.0.0.1', 'x, y']],
]
export function hostileHeaders(draw: Draw): Record<string, string> {
  const chosen: Record<string, string> = {}
  for (let times = Math.floor(draw() * 4); times > 0; times--) {
    const [name, values] = pick(draw, HEADERS)
    chosen[name] = pick(draw, values)
  }
  return chosen
}
