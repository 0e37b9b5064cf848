import { resolve } from 'node:path'
import { InvalidArgumentError, Option, type Command } from 'commander'
import type { ZodType } from 'zod'
import { handoffSchema } from '../core/backdrop/BackdropDocument'
import { SCREEN_CLASSES, type ScreenClass } from '../core/fit/screens'
import { MIN_HOLD_SECONDS } from '../core/kinds/slideshow/cycle'
import { MAX_HOLD_SECONDS } from '../core/kinds/slideshow/Slideshow'
import { MAX_TRANSITION_SECONDS, TRANSITION_STYLES } from '../core/kinds/slideshow/transition'
import { FAMILIES } from '../core/weight/families'
import type { DeliverOptions } from './DeliverOptions'
import { particlesFrom } from './particles'

/** Options of `deliver` as they are written: particles are named. */
export type AskedOptions = Omit<DeliverOptions, 'particles' | 'out'> & {
  readonly particles?: string
  readonly out?: string
  readonly strict?: boolean
}

/** A number between bounds, in a unit: of an option. */
export function number(low: number, high: number, unit: string) {
  return (text: string): number => {
    const value = Number(text)
    if (text.trim() === '' || !Number.isFinite(value) || value < low || value > high) {
      throw new InvalidArgumentError(`It must be a number from ${low} to ${high}${unit}.`)
    }
    return value
  }
}

/** `#1b2a4c`. */
function colour(text: string): string {
  if (!/^#[0-9a-f]{6}$/i.test(text))
    throw new InvalidArgumentError('A colour is written as #1b2a4c, in quotes.')
  return text.toLowerCase()
}

/** `4-12`: two lengths in seconds. */
function lengths(text: string): { min: number; max: number } {
  const [min, max] = text.split('-').map(Number)
  const sane = /^\d+(\.\d+)?-\d+(\.\d+)?$/.test(text) && min! >= 0.5 && max! >= min! && max! <= 120
  if (!sane)
    throw new InvalidArgumentError(
      'It must be two lengths in seconds, from 0.5 to 120, such as 4-12.',
    )
  return { min: min!, max: max! }
}

/** `800`, or `phone=800,laptop=2000`: kilobytes for all screens, or for those named. */
function budgets(text: string): Partial<Record<ScreenClass, number>> {
  const kilobytes = number(20, 1_000_000, ' kB')
  if (!text.includes('='))
    return Object.fromEntries(SCREEN_CLASSES.map((each) => [each, kilobytes(text)]))
  return Object.fromEntries(
    text.split(',').map((part) => {
      const [name, value = ''] = part.split('=')
      if (!SCREEN_CLASSES.some((each) => each === name))
        throw new InvalidArgumentError(
          `There is no screen called ${name}: they are ${SCREEN_CLASSES.join(', ')}.`,
        )
      return [name, kilobytes(value)]
    }),
  )
}

/** `phone,laptop`: some of `names`, each once. */
export function someOf<T extends string>(names: readonly T[], what: string) {
  return (text: string): T[] => {
    const named = text.split(',').map((part) => {
      const found = names.find((each) => each === part.trim())
      if (!found)
        throw new InvalidArgumentError(
          `There is no ${what} called ${part}: they are ${names.join(', ')}.`,
        )
      return found
    })
    return [...new Set(named)]
  }
}

/** A moment in seconds, or `first`. */
function poster(text: string): number | 'first' {
  return text === 'first' ? 'first' : number(0, 86_400, ' seconds, or first')(text)
}

/** What a schema of the document accepts, with its own message. */
const checked =
  <T>(schema: ZodType<T>) =>
  (value: string): T => {
    const parsed = schema.safeParse(value)
    if (!parsed.success) throw new InvalidArgumentError(parsed.error.issues[0]!.message)
    return parsed.data
  }
const { lang: langOf, pauseLabel } = handoffSchema.shape
const lang = checked(langOf)
const label = checked(pauseLabel)
/** A folder's address; the slash at its end may be left out. */
const baseUrl = (text: string): string =>
  checked(handoffSchema.shape.baseUrl)(text.endsWith('/') ? text : `${text}/`)

/** 1 to 6, whole. */
function level(text: string): number {
  if (!/^[1-6]$/.test(text)) throw new InvalidArgumentError('It must be a number from 1 to 6.')
  return Number(text)
}

/** `hero`, `front-2`: what may stand in file names and selectors everywhere. */
function id(text: string): string {
  if (!/^[a-z0-9][a-z0-9-]{0,30}$/.test(text))
    throw new InvalidArgumentError(
      'It has up to 31 small letters, digits and hyphens, such as hero or front-2.',
    )
  return text
}

/** The options that say what is made of a file. */
function withBase(command: Command): Command {
  return command
    .option(
      '--paint <words>',
      'a paint in place of a file, such as "linear 120deg #1b2350 #b5563c"',
    )
    .option('--particles <style>', 'moving elements over it: a style, or a file with a definition')
    .option('--start <seconds>', 'where the loop starts in the clip', number(0, 86_400, ' seconds'))
    .option('--end <seconds>', 'where it ends', number(0, 86_400, ' seconds'))
    .option('--speed <factor>', '0.25 to 4', number(0.25, 4, ''), 1)
    .option(
      '--width <pixels>',
      'one width, and one set of files, for all screens',
      number(160, 3840, ' pixels'),
    )
    .option(
      '--budget <kilobytes>',
      'bytes of a first visit: one number, or phone=800,laptop=2000,wide=3500',
      budgets,
    )
    .option(
      '--formats <list>',
      'formats to write, of av1, vp9 and h264',
      someOf(FAMILIES, 'format'),
    )
    .option(
      '--quality <ssim>',
      'constant quality: the SSIM to reach, 0.8 to 0.995, at any size',
      number(0.8, 0.995, ''),
    )
    .option(
      '--fps <rate>',
      'frames a second, 5 to 60; the clip’s own up to 30 without it',
      number(5, 60, ' frames a second'),
    )
    .option(
      '--noise-reduction <strength>',
      'reduce noise (film grain) over time, 0 to 1',
      number(0, 1, ''),
      0,
    )
    .option(
      '--copy-blur <strength>',
      'blur the picture behind the copy, 0 to 1',
      number(0, 1, ''),
      0,
    )
    .option('--matte <colour>', 'fills transparent parts; #ffffff without it', colour)
    .option('--once', 'play once and hold the last frame', false)
    .addOption(
      new Option('--seam <kind>', 'how the end of the loop meets its start')
        .choices(['straight', 'blended', 'ping-pong'])
        .default('straight'),
    )
    .option(
      '--overlap <seconds>',
      'length of a blended seam; chosen from measured motion without it',
      number(0.04, 10, ' seconds'),
    )
    .option(
      '--find-loop <lengths>',
      'look for the best loop of so many seconds, such as 4-12',
      lengths,
    )
    .option(
      '--hold <seconds>',
      'slideshow: how long each slide is fully shown, 4 without it',
      number(MIN_HOLD_SECONDS, MAX_HOLD_SECONDS, ' seconds'),
    )
    .option(
      '--transition <seconds>',
      'slideshow: how long the next one takes to replace it, 1.2 without it',
      number(0, MAX_TRANSITION_SECONDS, ' seconds'),
    )
    .addOption(
      new Option('--style <style>', 'slideshow: how it does').choices([...TRANSITION_STYLES]),
    )
    .option('--shuffle', 'slideshow: in a shuffled order, the first image first', false)
    .option('--controls', 'slideshow: previous, next and markers for visitors', false)
    .option(
      '--render',
      'deliver a slideshow as a clip; with --particles, render them and what is below into one clip',
      false,
    )
    .option(
      '--cycle-budget <kilobytes>',
      'slideshow: bytes of all slides together, as --budget',
      budgets,
    )
}

/** All options of a delivery: what is made of a file, poster, copy and markup. */
export function withBackdrop(command: Command): Command {
  return withBase(command)
    .option(
      '--poster <moment>',
      'the poster: a moment of the clip in seconds, or first',
      poster,
      'first',
    )
    .option('--heading <text>', 'heading of the demonstration page')
    .option('--heading-level <level>', 'level of that heading, 1 to 6', level)
    .option('--lang <tag>', 'language of copy and control, such as en or pt-BR', lang)
    .option('--pause-label <text>', 'what the control is called while the clip plays', label)
    .option('--play-label <text>', 'what it is called while the clip is paused', label)
    .option(
      '--base-url <address>',
      'where the folder will lie on the site, such as /backdrops/; beside the page without it',
      baseUrl,
    )
    .option(
      '--below-fold',
      'the region is further down the page: load it when it comes near',
      false,
    )
    .option('--plain-index', 'list each loop once in the index of its clip', false)
    .option('--id <id>', 'the backdrop’s id in markup and file names, such as hero', id)
}

/** They with what they name, from a folder: particles by a file or a style. */
export const settledOptions = async (
  options: AskedOptions,
  folder: string,
): Promise<DeliverOptions> => ({
  ...options,
  out: resolve(folder, options.out ?? '.'),
  particles: options.particles
    ? await particlesFrom(options.particles, (file) => resolve(folder, file))
    : null,
})
