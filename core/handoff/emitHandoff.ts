import { mimeOf } from '../media/image/mimeOf'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { firstVisits } from '../backdrop/firstVisit'
import { clipBudget, posterMaxBytes } from '../backdrop/recipe'
import { clipRate, isMoving, isRendered, particlesOf, picturesOf } from '../backdrop/delivered'
import { toNumber } from '../Fraction'
import { kindOf } from '../kinds'
import { typeOf, type DeliveredMedia } from '../kinds/DeliveredMedia'
import { emitRegion, languageOf, type PastedForm } from './emitMarkup'
import { emitReadme } from './emitReadme'
import { emitBackdropStyle, emitCopyStyle, emitPageStyle } from './emitStyle'
import type { HandoffFigures, HandoffInput } from './HandoffInput'
import { escapeHtml } from './html'
import { layersOf, scriptPartsOf } from './layers'
import { manifestSchema, type Manifest } from './manifest'
import { assembleScript, SCRIPT_FILES } from './scripts'
import { styleNames } from './styleNames'
import { HANDOFF_VERSION } from './version'

/** A text file of the delivered folder. */
export interface EmittedFile {
  readonly path: string
  readonly text: string
}

/** A text file of the folder, with what it is for. */
interface TextFile {
  readonly path: string
  readonly use: string
}

/** The script in its forms, and what makes a package of it: for what moves. */
const SCRIPT_TEXTS: readonly TextFile[] = [
  { path: SCRIPT_FILES.classic, use: 'script' },
  { path: SCRIPT_FILES.module, use: 'the same as an ES module' },
  { path: SCRIPT_FILES.element, use: 'the same as a custom element' },
  { path: 'backdrop.d.ts', use: 'types of the modules' },
  { path: 'package.json', use: 'makes the folder a package for bundlers' },
]

/**
 * The text files of a folder; `manifest.json` comes last. Where nothing moves there is no script.
 */
export function textFiles(
  id: string,
  document: Pick<BackdropDocument, 'base' | 'particles'>,
): TextFile[] {
  const { backdrop, copy } = styleNames(id)
  return [
    { path: 'index.html', use: 'demonstration page with your copy' },
    { path: 'page.css', use: 'style of the demonstration page only' },
    { path: 'fragment.html', use: 'markup to paste, with copy' },
    { path: 'backdrop-only.html', use: 'markup to paste behind your own section' },
    { path: backdrop, use: 'style of the background' },
    { path: copy, use: 'style of the copy in fragment.html' },
    ...(isMoving(document) ? SCRIPT_TEXTS : []),
    { path: 'README.txt', use: 'how to use it' },
    { path: 'manifest.json', use: 'description of every file' },
  ]
}

/**
 * The text files of a delivered folder, as listed by `textFiles`; the media lie beside them at
 * their addresses. Pure: equal input, equal bytes.
 */
export function emitHandoff(input: HandoffInput): EmittedFile[] {
  const { id, document, media, scripts } = input
  const { backdrop, copy } = styleNames(id)
  const parts = scriptPartsOf(layersOf(document, media))
  const texts: Readonly<Record<string, () => string>> = {
    'index.html': () => emitPage(input),
    'page.css': () => emitPageStyle(document),
    'fragment.html': () => emitFragment(id, document, media, 'fragment'),
    'backdrop-only.html': () => emitFragment(id, document, media, 'alone'),
    [backdrop]: () => emitBackdropStyle(id, document, media),
    [copy]: () => emitCopyStyle(id, document, media),
    [SCRIPT_FILES.classic]: () => assembleScript(scripts, 'classic', parts),
    [SCRIPT_FILES.module]: () => assembleScript(scripts, 'module', parts),
    [SCRIPT_FILES.element]: () => assembleScript(scripts, 'element', parts),
    'backdrop.d.ts': () => scripts.types,
    'package.json': () => emitPackage(id),
    'README.txt': () => emitReadme(input),
    'manifest.json': () => `${JSON.stringify(describe(input), null, 2)}\n`,
  }
  return textFiles(id, document).map(({ path }) => ({ path, text: texts[path]!() }))
}

/** The demonstration page: the backdrop with its copy, and a little page below to scroll to. */
function emitPage({ id, name, document, media }: HandoffInput): string {
  const { backdrop, copy } = styleNames(id)
  return `<!doctype html>
<html${languageOf(document)}>
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escapeHtml(name)}</title>
<link rel="icon" href="data:,">
<link rel="stylesheet" href="page.css">
<link rel="stylesheet" href="${backdrop}">
<link rel="stylesheet" href="${copy}">
${scriptLine('backdrop.js', document)}</head>
<body>
${emitRegion(id, document, media, 'page')}
<aside class="tln-after" aria-label="About this page" lang="en" dir="ltr">
  <p>The page continues here.${isMoving(document) ? ' When the background is out of view it stops playing; scroll back and it continues.' : ''}</p>
</aside>
</body>
</html>
`
}

/** The line that loads the script; none where nothing moves. */
function scriptLine(address: string, document: BackdropDocument): string {
  return isMoving(document) ? `<script src="${address}" defer></script>\n` : ''
}

/** The markup to paste, with addresses as they are on the site. */
export function emitFragment(
  id: string,
  document: BackdropDocument,
  media: DeliveredMedia,
  form: PastedForm,
): string {
  const { backdrop, copy } = styleNames(id)
  const at = (path: string): string => escapeHtml(`${document.handoff.baseUrl}${path}`)
  const placed: DeliveredMedia = {
    ...media,
    clips: media.clips.map((clip) => ({ ...clip, url: document.handoff.baseUrl + clip.url })),
    posters: media.posters.map((poster) => ({
      ...poster,
      url: document.handoff.baseUrl + poster.url,
    })),
  }
  const styles = form === 'fragment' ? [backdrop, copy] : [backdrop]
  const use =
    form === 'fragment'
      ? 'Where the background with its copy goes; replace the copy with your own:'
      : 'First inside your own section, which gets the class tln-host:'
  return `<!-- In the head of the page: -->
${styles.map((path) => `<link rel="stylesheet" href="${at(path)}">`).join('\n')}
${scriptLine(at('backdrop.js'), document)}
<!-- ${use} -->
${emitRegion(id, document, placed, form)}
`
}

/** Makes the folder a package that bundlers and type checkers understand. */
function emitPackage(id: string): string {
  const types = './backdrop.d.ts'
  const description = {
    name: `tln-backdrop-${id}`,
    version: HANDOFF_VERSION,
    private: true,
    license: 'MIT',
    type: 'module',
    types,
    exports: {
      '.': { types, default: './backdrop.mjs' },
      './element': { types, default: './backdrop-element.mjs' },
      './*.css': './*.css',
      './media/*': './media/*',
    },
    sideEffects: true,
  }
  return `${JSON.stringify(description, null, 2)}\n`
}

function clipFigures({
  repeats,
  deliveredSeam,
  quality,
  passes,
  encodeSeconds,
}: HandoffFigures['clips'][number]) {
  return {
    repeats,
    seamRatio: deliveredSeam?.ratio ?? null,
    ssim: quality?.ssim ?? null,
    worstSsim: quality?.worstSsim ?? null,
    psnr: quality?.psnr ?? null,
    seconds: encodeSeconds,
    passes,
  }
}

/**
 * What a first visit takes on each class of screens: the heaviest poster and clip that any browser
 * is offered there, script and style.
 */
function weightsOf(document: BackdropDocument, media: DeliveredMedia): Manifest['firstVisit'] {
  return firstVisits(document, media).map(
    ({ screenClass, poster, clip, page, total, budgetBytes: budget }) => ({
      screen: screenClass,
      posterBytes: poster,
      clipBytes: clip,
      pageBytes: page,
      bytes: total,
      budgetBytes: budget,
    }),
  )
}

function describeParticles(
  document: BackdropDocument,
  { particleCost }: HandoffFigures,
): Manifest['particles'] {
  const definition = particlesOf(document)
  if (!definition) return null
  const { name, seed, period, perMegapixel, most } = definition
  const { style, frameRate } = document.particles!
  const form = isRendered(document) ? 'rendered' : 'live'
  return {
    name,
    style,
    form,
    seed,
    periodSeconds: period,
    framesPerSecond: form === 'live' ? frameRate : toNumber(clipRate(document)),
    perMegapixel,
    most,
    // What is in a clip costs what a clip does.
    cost: form === 'live' ? particleCost : null,
  }
}

function describe({ id, name, document, media, figures }: HandoffInput): Manifest {
  const { base, behaviour, weight, poster, handoff } = document
  const layers = layersOf(document, media)
  const worst = (values: readonly number[]): number =>
    values.reduce((max, value) => Math.max(max, value), 0)
  return manifestSchema.parse({
    format: 'telon-handoff',
    version: 8,
    handoffVersion: HANDOFF_VERSION,
    id,
    name,
    baseUrl: handoff.baseUrl,
    lang: handoff.lang,
    base: kindOf(base).describe(base, figures.clips),
    layers: layers.map(({ type, files }) => ({ type, files: [...new Set(files)] })),
    scriptParts: scriptPartsOf(layers),
    particles: describeParticles(document, figures),
    poster: picturesOf(document)?.chosen
      ? {
          picture: poster.picture.kind === 'source' ? 'image' : poster.picture.kind,
          swapDeltaE: worst(figures.posters.map((poster) => poster.swapDeltaE)),
          swapWorst: worst(figures.posters.map((poster) => poster.swapWorst)),
        }
      : null,
    clips: media.clips.map((clip, index) => ({
      path: clip.url,
      screen: clip.screenClass,
      type: typeOf(clip),
      width: clip.width,
      height: clip.height,
      bytes: clip.bytes,
      budgetBytes: weight.goal === 'budget' ? clipBudget(document, clip.screenClass) : null,
      ...clipFigures(figures.clips[index]!),
    })),
    posters: media.posters.map((poster, index) => ({
      path: poster.url,
      screen: poster.screenClass,
      type: mimeOf(poster.format),
      density: poster.density,
      slide: poster.slide === undefined ? null : poster.slide + 1,
      width: poster.width,
      height: poster.height,
      bytes: poster.bytes,
      maxBytes: posterMaxBytes(document, poster.screenClass),
      ssim: figures.posters[index]!.ssim,
      swapDeltaE: figures.posters[index]!.swapDeltaE,
    })),
    firstVisit: weightsOf(document, media),
    behaviour: {
      phone: behaviour.phone,
      reducedMotion: behaviour.reducedMotion,
      dataSaver: behaviour.dataSaver,
      pauseControl: behaviour.pauseControl,
    },
    files: [
      ...new Set([
        ...textFiles(id, document).map(({ path }) => path),
        ...media.clips.map(({ url }) => url),
        ...media.posters.map(({ url }) => url),
      ]),
    ],
  })
}
