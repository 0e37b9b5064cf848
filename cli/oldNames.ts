/** Names that commands, options and values had before, and what they are called now. */
const COMMANDS: Readonly<Record<string, string>> = { mend: 'repair' }
const OPTIONS: Readonly<Record<string, string>> = { '--denoise': '--noise-reduction' }
const VALUES: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  '--seam': { 'there-and-back': 'ping-pong' },
}

/**
 * Replaces old names in the arguments (without the two that name Node and the script). `warn` is
 * told a sentence for each. Old names work for one version.
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
