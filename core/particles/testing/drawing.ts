/* All that draws particles, for tests that do so in a browser. */
export { drawLinks, linksOf } from '../links'
export { painterOf } from '../Painter'
