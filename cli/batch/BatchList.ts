import { readFile } from 'node:fs/promises'
import { basename, dirname, resolve } from 'node:path'
import { Command, CommanderError } from 'commander'
import { z } from 'zod'
import { settledOptions, withBackdrop, type AskedOptions } from '../options'
import { UsageError, type DeliverOptions } from '../DeliverOptions'

/** Deliveries of one list at most. */
const MAX_DELIVERIES = 5000
const MAX_FILES = 50

const optionsSchema = z
  .record(
    z
      .string()
      .regex(/^[a-z][a-z-]*$/, 'It must be the name of an option of deliver, such as seam.'),
    z.union([z.string(), z.number(), z.boolean()]),
  )
  .describe(
    'Options of `telon deliver` by their long names, such as {"seam": "blended", "once": true}',
  )

/** A list of deliveries, as it is written. Paths are relative to the list. */
export const batchListSchema = z.strictObject({
  $schema: z.string().optional(),
  telonBatch: z.literal(1).describe('The version of this format'),
  project: z
    .string()
    .min(1)
    .optional()
    .describe('Name or id of the project on whose shelf the sources are put'),
  options: optionsSchema.optional().describe('Of all deliveries that do not say otherwise'),
  deliveries: z
    .array(
      z.strictObject({
        files: z
          .array(z.string().min(1))
          .max(MAX_FILES)
          .default([])
          .describe(
            'A clip, an image, or the images of a slideshow; none where paint is an option',
          ),
        out: z.string().min(1).describe('The folder to write'),
        options: optionsSchema.optional(),
      }),
    )
    .max(MAX_DELIVERIES)
    .default([]),
})
type NamedOptions = z.infer<typeof optionsSchema>

export const batchJsonSchema = (): object => ({
  title: 'A list of deliveries for telon batch',
  ...z.toJSONSchema(batchListSchema, { io: 'input' }),
})

/** One delivery: absolute paths, options checked. */
export interface Delivery {
  /** As the list names its folder: what it is told by. */
  readonly name: string
  readonly files: readonly string[]
  readonly options: DeliverOptions
  /**
   * The same without options that are of no use to it; null where it has one of them for itself,
   * and not for all deliveries.
   */
  readonly without: (options: readonly string[]) => Promise<Delivery> | null
}

/** A list with its deliveries. */
export interface ReadList {
  readonly project: string | null
  /** Of all deliveries, also of what is dropped into a folder; they name files from `folder`. */
  readonly options: NamedOptions
  readonly folder: string
  readonly deliveries: readonly Delivery[]
}

/** Reads a list. Throws UsageError, which says what is wrong where. */
export async function readList(path: string): Promise<ReadList> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw new UsageError(`${path}: the file does not exist or cannot be read.`)
  })
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    throw new UsageError(`${path} is no JSON: ${(error as Error).message}`)
  }
  const parsed = batchListSchema.safeParse(json)
  if (!parsed.success) throw new UsageError(`${path}: ${issuesOf(parsed.error)}`)
  const { project = null, options = {}, deliveries } = parsed.data
  const folder = dirname(path)
  await deliverOptions(options, { folder, out: folder, where: `${path}, options` })
  const named = new Set<string>()
  const read: Delivery[] = []
  for (const { files, out, options: own = {} } of deliveries) {
    const target = resolve(folder, out)
    if (named.has(target)) throw new UsageError(`${path}: two deliveries are written to ${out}.`)
    named.add(target)
    const paths = files.map((file) => resolve(folder, file))
    const place = { folder, out: target, where: `${path}, ${out}` }
    read.push(await deliveryOf(out, paths, options, own, place))
  }
  return { project, options, folder, deliveries: read }
}

/** Where a delivery's options name files from, where it is written, and how an error begins. */
interface Place {
  readonly folder: string
  readonly out: string
  readonly where: string
}

/** A delivery with the options for all and its own. Throws UsageError. */
export async function deliveryOf(
  name: string,
  files: readonly string[],
  forAll: NamedOptions,
  own: NamedOptions,
  place: Place,
): Promise<Delivery> {
  return {
    ...{ name, files },
    options: await deliverOptions({ ...forAll, ...own }, place),
    without(options) {
      const names = new Set(options.map((option) => option.replace(/^--/, '')))
      const isOwn = Object.keys(own).some((each) => names.has(each))
      const rest = Object.entries(forAll).filter(([each]) => !names.has(each))
      const isLess = rest.length < Object.keys(forAll).length
      return isOwn || !isLess ? null : deliveryOf(name, files, Object.fromEntries(rest), own, place)
    },
  }
}

function issuesOf({ issues }: z.ZodError): string {
  const [{ path, message }] = issues as [z.core.$ZodIssue]
  const more = issues.length > 1 ? ` (and ${issues.length - 1} more)` : ''
  return `${path.length > 0 ? `${path.join('.')}: ` : ''}${message}${more}`
}

/** Options by name, checked as on the command line. Throws UsageError. */
function deliverOptions(
  named: NamedOptions,
  { folder, out, where }: Place,
): Promise<DeliverOptions> {
  const command = withBackdrop(new Command('deliver'))
    .exitOverride()
    .configureOutput({ writeErr: () => undefined, writeOut: () => undefined })
  const words = Object.entries(named).flatMap(([name, value]) =>
    value === false ? [] : value === true ? [`--${name}`] : [`--${name}=${value}`],
  )
  try {
    command.parse(words, { from: 'user' })
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error
    throw new UsageError(`${where}: ${error.message.replace(/^error: /, '')}`)
  }
  return settledOptions({ ...command.opts<AskedOptions>(), out }, folder)
}

/** The delivery of a file that was dropped into a folder that is watched. Throws UsageError. */
export function droppedDelivery(
  file: string,
  out: string,
  { options, folder }: Pick<ReadList, 'options' | 'folder'>,
): Promise<Delivery> {
  const name = basename(file).replaceAll('.', '-')
  return deliveryOf(
    name,
    [file],
    options,
    {},
    { folder, out: resolve(out, name), where: 'options' },
  )
}
