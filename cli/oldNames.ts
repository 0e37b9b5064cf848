/** Former names of commands, options and values, and their present names. */
const COMMANDS: Readonly<Record<string, string>> = { mend: 'repair' }
const OPTIONS: Readonly<Record<string, string>> = {
  '--denoise': '--noise-reduction',
  '--soften': '--copy-blur',
}
const VALUES: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  '--seam': { 'there-and-back': 'ping-pong' },
}

/**
 * Replaces former names in the arguments (without those of Node and the script) and passes a
 * sentence about each to `warn`. Former names work for one version.
 */
export function withNewNames(args: readonly string[], warn: (line: string) => void): string[] {
  const renamed = (from: string, to: string): string => {
    warn(`${from} is now called ${to}; the old name will stop working in the next version.`)
    return to
  }
  return args.map((arg, index) => {
    if (index === 0 && COMMANDS[arg]) return renamed(arg, COMMANDS[arg])
    const [name = '', ...rest] = arg.split('=')
    const before = args[index - 1] ?? ''
    if (VALUES[before]?.[arg]) return renamed(`${before} ${arg}`, VALUES[before][arg])
    const value = rest.join('=')
    const option = OPTIONS[name] ? renamed(name, OPTIONS[name]) : name
    if (rest.length === 0) return option
    const given = VALUES[option]?.[value] ? renamed(arg, VALUES[option][value]) : value
    return `${option}=${given}`
  })
}
