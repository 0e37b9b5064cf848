import { readFile } from 'node:fs/promises'
import { resolve } from 'node:path'
import { Command, Option } from 'commander'
import { SCREEN_NAMES, type ScreenName } from '../core/fit/screens'
import { runBatch, type BatchOptions } from './batch/runBatch'
import { deliver } from './deliver'
import { UsageError, type DeliverOptions } from './DeliverOptions'
import { legibility } from './legibility'
import { number, settledOptions, someOf, withBackdrop, type AskedOptions } from './options'
import { styleLines, styleText } from './particles'
import { repair, type RepairOptions } from './repair'
import { probeLine } from './probe'
import { withNewNames } from './oldNames'
import { upload, type UploadOptions } from './upload'

/** The caller's folder: npm runs scripts in the project's folder. */
const CALLER = process.env['TELON_CWD'] ?? process.cwd()

const asked = (options: AskedOptions): Promise<DeliverOptions> => settledOptions(options, CALLER)

const program = new Command('telon')
  .description('Reads clips and makes moving backgrounds from them.')
  .exitOverride((error) => {
    // Help is not a mistake; everything else that commander stops at is one.
    process.exit(error.exitCode === 0 ? 0 : 2)
  })

program
  .command('probe')
  .description(
    'Print what each file is: one JSON object a line. Exit code 1 if any cannot be used.',
  )
  .argument('<files...>')
  .action(async (files: string[]) => {
    let failed = false
    for (const file of files) {
      const { line, ok } = await probeLine(resolve(CALLER, file), file)
      process.stdout.write(`${line}\n`)
      failed ||= !ok
    }
    process.exitCode = failed ? 1 : 0
  })

program
  .command('repair')
  .description(
    'Write a repaired copy of a clip without re-encoding. The suffix of the output sets the container.',
  )
  .argument('<file>')
  .requiredOption('--out <file>', 'file to write: .mp4, .mov, .webm or .mkv')
  .option(
    '--index-first',
    'put the index before the data (MP4 and MOV are always written so)',
    false,
  )
  .option('--no-sound', 'remove the sound')
  .option(
    '--start <seconds>',
    'cut at the key frame at or before this moment',
    number(0, 86_400, ' seconds'),
  )
  .option('--end <seconds>', 'remove everything from this moment on', number(0, 86_400, ' seconds'))
  .option('--strip', 'remove metadata about people, places, devices and times', false)
  .action(async (file: string, options: RepairOptions) => {
    await repair(resolve(CALLER, file), { ...options, out: resolve(CALLER, options.out) }, (line) =>
      process.stderr.write(`${line}\n`),
    )
  })

withBackdrop(
  program
    .command('deliver')
    .description(
      'Write the handoff folder of a clip, an image, several images as a slideshow, or a paint. Progress goes to stderr.',
    )
    .argument('[files...]', 'a clip, an image, or the images of a slideshow in their order')
    .requiredOption('--out <dir>', 'folder to write')
    .addOption(
      new Option(
        '--encoders <which>',
        'best: the encoder programs of this machine, slow and a third smaller; browser: fast',
      )
        .choices(['best', 'browser'])
        .default('best'),
    )
    .option(
      '--strict',
      'exit code 3 if the copy cannot be read on some screen at some time',
      false,
    ),
).action(async (files: string[], options: AskedOptions) => {
  const { readable } = await deliver(
    files.map((file) => resolve(CALLER, file)),
    await asked(options),
    (line) => process.stderr.write(`${line}\n`),
  )
  if (options.strict && readable === false) process.exitCode = 3
})

withBackdrop(
  program
    .command('legibility')
    .description(
      'Print the worst contrast of the copy on each screen: one JSON object a line. Exit code 3 if any of it fails.',
    )
    .argument('<paths...>', 'delivered folders; or clips and images, with the options of deliver')
    .addOption(
      new Option('--screens <names>', 'only these, such as phone,laptop')
        .argParser(someOf(SCREEN_NAMES, 'screen'))
        .default(SCREEN_NAMES, 'all'),
    ),
).action(async (paths: string[], options: AskedOptions & { screens: ScreenName[] }) => {
  let failed = false
  const passed = await legibility(
    paths.map((path) => ({ shown: path, path: resolve(CALLER, path) })),
    { ...(await asked(options)), screens: options.screens },
    (line) => process.stderr.write(`${line}\n`),
    (line) => {
      failed ||= line.error !== undefined
      process.stdout.write(`${JSON.stringify(line)}\n`)
    },
  )
  process.exitCode = failed ? 1 : passed ? 0 : 3
})

program
  .command('particles')
  .description('List the styles of particles, or print one as a definition to be changed.')
  .argument('[style]', 'a style, such as ember-drift')
  .action((style: string | undefined) => {
    process.stdout.write(style ? styleText(style) : `${styleLines().join('\n')}\n`)
  })

program
  .command('upload')
  .description('Put files on the shelf of a project of a running Telon.')
  .argument('<files...>')
  .requiredOption('--project <project>', 'id or name of the project')
  .option('--server <address>', 'where Telon runs', 'http://localhost:4600')
  .addOption(
    new Option('--token <token>', 'API token, made under Access')
      .env('TELON_TOKEN')
      .makeOptionMandatory(),
  )
  .action(async (files: string[], options: UploadOptions) => {
    await upload(
      files.map((file) => resolve(CALLER, file)),
      options,
      (line) => process.stderr.write(`${line}\n`),
    )
  })

program
  .command('batch')
  .description(
    'Deliver many: render workers make the files, folders are written here. Called again it goes on where it was ended. One JSON object for each delivery on stdout.',
  )
  .argument('[list]', 'a list of deliveries: docs/command-line.md')
  .option('--server <address>', 'where Telon runs', 'http://localhost:4600')
  .addOption(
    new Option('--token <token>', 'API token, made under Access')
      .env('TELON_TOKEN')
      .makeOptionMandatory(),
  )
  .option('--project <project>', 'id or name of the project whose shelf takes the sources')
  .addOption(
    new Option('--encoders <which>', 'best: those of the render workers; browser: fast')
      .choices(['best', 'browser'])
      .default('best'),
  )
  .option('--no-wait', 'return when all is queued; call again for the folders')
  .option('--watch <folder>', 'deliver everything that is dropped there, until it is ended')
  .option('--out <dir>', 'where that is delivered; a folder "delivered" in it without this')
  .action(async (list: string | undefined, options: BatchOptions) => {
    const ending = new AbortController()
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => ending.abort())
    const { watch, out } = options
    const isWell = await runBatch(
      list === undefined ? null : resolve(CALLER, list),
      {
        ...options,
        ...(watch === undefined ? {} : { watch: resolve(CALLER, watch) }),
        ...(out === undefined ? {} : { out: resolve(CALLER, out) }),
      },
      ending.signal,
      (line) => process.stderr.write(`${line}\n`),
      (outcome) => process.stdout.write(`${JSON.stringify(outcome)}\n`),
    )
    if (ending.signal.aborted)
      process.stderr.write('Ended. What is queued is rendered on; call it again for the folders.\n')
    process.exitCode = isWell ? 0 : 1
  })

program
  .command('hash-password')
  .description(
    'Read a password from standard input and print its hash, which TELON_PASSWORD takes in its place.',
  )
  .action(async () => {
    const { hash } = await import('@node-rs/argon2')
    const password = (await readFile('/dev/stdin', 'utf8')).replace(/\r?\n$/, '')
    if (password.length < 8) throw new UsageError('A password has at least 8 characters.')
    process.stdout.write(`${await hash(password)}\n`)
  })

program
  .parseAsync(
    withNewNames(process.argv.slice(2), (line) => process.stderr.write(`${line}\n`)),
    { from: 'user' },
  )
  .catch((error: unknown) => {
    process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`)
    process.exit(error instanceof UsageError ? 2 : 1)
  })
