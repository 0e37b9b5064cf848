import { execFileSync } from 'node:child_process'

/** Processes that descend from another and whose command line matches. */
export function descendants(of: number, pattern: RegExp): number[] {
  const rows = execFileSync('ps', ['-eo', 'pid=,ppid=,args='], { encoding: 'utf8' })
    .split('\n')
    .flatMap((line) => {
      const [, pid, parent, args = ''] = /^\s*(\d+)\s+(\d+)\s+(.*)$/.exec(line) ?? []
      return pid ? [{ pid: Number(pid), parent: Number(parent), args }] : []
    })
  const within = (parent: number): typeof rows =>
    rows.filter((row) => row.parent === parent).flatMap((row) => [row, ...within(row.pid)])
  return within(of)
    .filter(({ args }) => pattern.test(args))
    .map(({ pid }) => pid)
}

/** Ends a process at once, if it is there. */
export function killAtOnce(pid: number): void {
  try {
    process.kill(pid, 'SIGKILL')
  } catch {
    // It has ended meanwhile.
  }
}
