import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import type { Browser, Page } from 'playwright-core'
import sharp from 'sharp'
import { SCREENS, type ScreenName } from '../core/fit/screens'
import { parseHex } from '../core/picture/srgb'
import { contrastRatio } from '../core/scrim/contrast'
import { PERCENTILE, worstPlace, type Box } from '../core/scrim/frameContrast'
import { NO_SCRIM } from '../core/scrim/Scrim'

/*
 * What visitors see behind copy: screenshots of a delivered page with its copy taken away. Nothing
 * of our own decodes, scales or composites them.
 */

/** Texts of a page by their names in `telon legibility`. */
export const SEEN_TEXTS: Readonly<Record<string, string>> = {
  brand: '.tln-brand',
  links: '.tln-link',
  heading: '.tln-heading',
  text: '.tln-body',
}

/** The page of a delivered folder on a screen, with its copy laid out but not drawn. */
export async function barePage(
  browser: Browser,
  folder: string,
  screen: ScreenName,
): Promise<Page> {
  const { width, height } = SCREENS[screen]
  const page = await browser.newPage({ viewport: { width, height } })
  await page.goto(pathToFileURL(join(folder, 'index.html')).href)
  // Once the page has begun to play, nobody but the test moves its clip.
  await page.waitForFunction(
    () => (document.querySelector<HTMLVideoElement>('.tln-video')?.currentTime ?? 0) > 0.1,
  )
  await page.evaluate(() => {
    const video = document.querySelector<HTMLVideoElement>('.tln-video')!
    video.pause()
    const note = (_: number, { mediaTime }: { mediaTime: number }): void => {
      video.dataset['presented'] = String(mediaTime)
      video.requestVideoFrameCallback(note)
    }
    video.requestVideoFrameCallback(note)
  })
  await page.addStyleTag({
    content:
      '.tln-header.tln-header *, .tln-copy.tln-copy * { color: transparent !important; background: none !important; border-color: transparent !important; }',
  })
  return page
}

/** Longer than any frame lasts, in seconds. */
const FRAME = 0.05

/**
 * The contrast of a white text on a page whose clip is held at a moment, and which frame was
 * presented last (its time in seconds; null where none was).
 */
export async function seenContrast(
  page: Page,
  text: string,
  seconds: number,
): Promise<{ readonly ratio: number; readonly frameSeconds: number | null }> {
  const { boxes, frameSeconds } = await page.evaluate(
    async ([selector, at, frame]) => {
      const video = document.querySelector<HTMLVideoElement>('.tln-video')!
      video.pause()
      const sought = new Promise((resolve) =>
        video.addEventListener('seeked', resolve, { once: true }),
      )
      video.currentTime = at
      await sought
      // A frame that is there already is not presented again; a busy machine presents it late.
      const presented = (): number => Number(video.dataset['presented'] ?? NaN)
      const until = performance.now() + 5000
      while (!(presented() <= at && presented() > at - frame) && performance.now() < until)
        await new Promise((resolve) => setTimeout(resolve, 50))
      const last = presented()
      const frameSeconds = Number.isNaN(last) ? null : last
      await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)))
      return {
        frameSeconds,
        boxes: [...document.querySelectorAll(selector)].map((element): Box => {
          const range = document.createRange()
          range.selectNodeContents(element)
          const { x, y, width, height } = range.getBoundingClientRect()
          return { x, y, width, height }
        }),
      }
    },
    // Into the frame.
    [SEEN_TEXTS[text]!, seconds + 0.01, FRAME] as const,
  )
  // On a busy machine the frame is painted a little later than it is presented.
  let last = await page.screenshot()
  for (let turn = 0; turn < 10; turn++) {
    await page.waitForTimeout(100)
    const next = await page.screenshot()
    if (next.equals(last)) break
    last = next
  }
  const { data, info } = await sharp(last).ensureAlpha().raw().toBuffer({ resolveWithObject: true })
  const { ratio } = worstPlace({ data, ...info }, NO_SCRIM, boxes, parseHex('#ffffff'))!
  return { ratio, frameSeconds }
}

/** Of 255: pixels of letters are brighter in a picture of letters alone. */
const COVERED = 127

/**
 * The contrast of white letters of a text against what is next to them: of all places that touch a
 * letter the 5th percentile, each with the mean of what is free of letters around it. `bare` is a
 * picture of the page whose letters are not drawn, but what they have around them is.
 */
export async function seenAround(page: Page, text: string, bare: Buffer): Promise<number> {
  const style = await page.addStyleTag({
    content: `.tln-backdrop.tln-backdrop { opacity: 0 !important; } .tln-region.tln-region { background: #000 !important; }
      .tln-copy.tln-copy ${SEEN_TEXTS[text]!} { color: #fff !important; text-shadow: none !important; }`,
  })
  const alone = await page.screenshot()
  await style.evaluate((element) => (element as Element).remove())
  const box = (await page.locator(SEEN_TEXTS[text]!).first().boundingBox())!
  const [shown, letters] = await Promise.all(
    [bare, alone].map((each) =>
      sharp(each).removeAlpha().raw().toBuffer({ resolveWithObject: true }),
    ),
  )
  const { width } = shown!.info
  const isFree = (x: number, y: number): boolean => letters!.data[3 * (y * width + x)]! <= COVERED
  const around = [-1, 0, 1].flatMap((down) => [-1, 0, 1].map((across) => [across, down] as const))
  const ratios: number[] = []
  for (let y = Math.floor(box.y) + 1; y < box.y + box.height - 1; y++)
    for (let x = Math.floor(box.x) + 1; x < box.x + box.width - 1; x++) {
      const near = around.map(([across, down]) => [x + across, y + down] as const)
      const free = near.filter(([column, row]) => isFree(column, row))
      if (!isFree(x, y) || free.length === near.length) continue
      const mean = (channel: number): number =>
        free.reduce(
          (sum, [column, row]) => sum + shown!.data[3 * (row * width + column) + channel]!,
          0,
        ) / free.length
      ratios.push(contrastRatio(parseHex('#ffffff'), { r: mean(0), g: mean(1), b: mean(2) }))
    }
  ratios.sort((one, other) => one - other)
  return ratios[Math.floor((ratios.length - 1) * PERCENTILE)]!
}
