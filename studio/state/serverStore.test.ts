import { beforeEach, describe, expect, it } from 'vitest'
import { noteAnswer } from '../api/answers'
import { isSameVersion, OWN_VERSION, useServer } from './serverStore'

beforeEach(() => useServer.setState({ outdated: false, signInNeeded: false, signIns: 0 }))

describe('the version of the server', () => {
  it.each([
    ['4.abc', '4.abc', true],
    ['4.abc', '4.def', false],
    ['4.abc', '5.abc', false],
    ['4.dev', '4.def', true],
    ['4.abc', '4.dev', true],
    ['4.dev', '5.def', false],
  ])('%s works with %s: %s', (own, theirs, same) => expect(isSameVersion(own, theirs)).toBe(same))
  it('that differs makes the page outdated, and it stays so', () => {
    noteAnswer(200, OWN_VERSION)
    expect(useServer.getState().outdated).toBe(false)
    noteAnswer(200, '99.other')
    noteAnswer(200, OWN_VERSION)
    expect(useServer.getState().outdated).toBe(true)
  })
})

describe('a sign-in that is missing', () => {
  it('is asked for once, and what waits is told when it is done', () => {
    noteAnswer(401, null)
    noteAnswer(401, null)
    expect(useServer.getState()).toMatchObject({ signInNeeded: true, signIns: 0 })
    useServer.getState().onSignedIn()
    expect(useServer.getState()).toMatchObject({ signInNeeded: false, signIns: 1 })
  })
})
