/**
 * Pages as sites really have them. Each puts what is pasted at `SLOT`; elements with `data-own` are
 * the site's, and must look the same with and without Telon's style.
 */
export interface HostPage {
  readonly name: string
  readonly css: string
  readonly body: string
  readonly html?: string
  /** Whether the region fills its parent's width, which is not that of the window. */
  readonly narrow?: true
}

const OWN = `<h2 data-own>Our own heading</h2><p data-own>Our own <a data-own href="#">text</a>.</p>
  <img data-own alt="" width="40" height="20" src="data:image/gif;base64,R0lGODlhAQABAAAAACwAAAAAAQABAAA=">
  <button data-own type="button">Our own</button>`

export const HOST_PAGES: readonly HostPage[] = [
  { name: 'a plain page', css: 'body { margin: 0 }', body: `SLOT ${OWN}` },
  {
    name: 'rules for every image and video',
    css: `body { margin: 0 }
      img, video, canvas { max-width: 100%; height: auto; display: inline; margin: 2rem; padding: 4px;
        border: 3px solid red; border-radius: 20px; opacity: 0.5; filter: grayscale(1); float: left }
      picture { display: block; position: relative; width: 50%; overflow: hidden; transform: scale(0.5) }
      video:not([controls]) { display: none }`,
    body: `SLOT ${OWN}`,
  },
  {
    name: 'a centring flex parent',
    css: `body { margin: 0; display: flex; flex-wrap: wrap; align-items: center;
      justify-content: center; min-height: 100vh }`,
    body: `SLOT <div data-own>${OWN}</div>`,
  },
  {
    name: 'a column of a flex layout',
    css: `body { margin: 0; display: flex } aside { flex: none; width: 200px } main { flex: 1; min-width: 0 }`,
    body: `<aside data-own>Aside</aside><main>SLOT ${OWN}</main>`,
    narrow: true,
  },
  {
    name: 'a flex column of the window’s height',
    css: `body { margin: 0; display: flex; flex-direction: column; align-items: center; height: 100vh }`,
    body: `<p data-own>Bar</p>SLOT ${OWN}`,
  },
  {
    name: 'a centring grid parent',
    css: `body { margin: 0 } main { display: grid; place-items: center; place-content: center stretch }`,
    body: `<main>SLOT ${OWN}</main>`,
  },
  {
    name: 'rules for every button',
    css: `body { margin: 0 }
      button, [type=button] { width: 100%; min-width: 300px; min-height: 80px; padding: 2rem;
        background: #00aa00; border: 4px solid; border-radius: 0; text-transform: uppercase;
        position: static; float: left; opacity: 0.4; display: block; font-size: 40px }
      button::before { content: "→ " } button::after { content: " ←" } button:empty { display: none }`,
    body: `SLOT ${OWN}`,
  },
  {
    name: 'rules with one class',
    css: `body { margin: 0 }
      .content img, .content video, .content picture, .content canvas { position: static; width: auto; margin: 3rem auto;
        border-radius: 12px; object-fit: contain; max-height: 200px }
      .content section { padding: 6rem; max-width: 600px; margin: 3rem auto; background: #fff;
        display: block; border: 5px solid; box-shadow: 0 0 9px }
      .content h1 { color: #000; font-size: 12px; margin: 5rem; text-transform: uppercase }
      .content p { color: #111; font-size: 9px; max-width: 10rem; opacity: 0.3 }
      .content a { color: blue; text-decoration: underline; background: none; padding: 0; display: inline }
      .content > * { position: relative; z-index: 2 } .content div { position: relative; float: left }`,
    body: `<div class="content">SLOT ${OWN}</div>`,
  },
  {
    name: 'a page from right to left',
    html: '<html lang="ar" dir="rtl">',
    css: 'body { margin: 0 }',
    body: `SLOT ${OWN}`,
  },
  {
    name: 'black words on black',
    css: `body { margin: 0; background: #000; color: #000 } h1, h2, p, a { color: #000 }`,
    body: `SLOT ${OWN}`,
  },
  {
    name: 'a root size of 10 pixels',
    css: `html { font-size: 62.5% } body { margin: 0; font-size: 1.6rem }`,
    body: `SLOT ${OWN}`,
  },
  {
    name: 'sections that stack their children',
    css: `body { margin: 0 } .wrap { position: relative; z-index: 0; background: #fff }
      header { position: sticky; top: 0; z-index: 10 }
      section > *, section div { position: relative; z-index: 1; max-width: 40rem; margin-inline: auto }`,
    body: `<header data-own>Bar</header><div class="wrap">SLOT</div>${OWN}`,
  },
  {
    name: 'everything animated and faded in',
    css: `@keyframes rise { from { opacity: 0; transform: translateY(9px) } }
      * { margin: 0; transition: all 0.3s } section, div, picture, video, canvas { opacity: 0; animation: rise 1s infinite }`,
    body: `SLOT ${OWN}`,
  },
  {
    name: 'a table cell',
    css: `body { margin: 0 } table { width: 100%; border-collapse: collapse } td { padding: 0; vertical-align: middle; text-align: center }
      section { display: table-row }`,
    body: `<table><tr><td>SLOT</td></tr></table>${OWN}`,
  },
  {
    name: 'ornaments before and after, nothing empty',
    css: `body { margin: 0 } section::before, section::after { content: "§"; display: block; height: 50px }
      div:empty { display: none } div::before { content: "" ; display: table }`,
    body: `SLOT ${OWN}`,
  },
]
