/*
 * A stated model of a page's first load on a given line, small enough to be read and checked. One
 * connection carries everything. After its handshake a request takes a round trip to answer;
 * answers share the line's rate, or less while the connection still grows (slow start from ten
 * segments, RFC 6928). More urgent answers come first, equal ones share. `e2e/firstLoad.test.ts`
 * compares it with a real browser under emulation.
 */

/** A line. */
export interface Line {
  /** Bits a second that it carries down. */
  readonly bitsPerSecond: number
  readonly roundTripMs: number
  /**
   * Round trips before the first request can be sent: 1 for TCP, 2 or 3 with TLS; 0 where the
   * connection is there already.
   */
  readonly handshakes: number
  /**
   * Whether the connection begins with ten segments and doubles: real ones do, emulated ones do
   * not.
   */
  readonly slowStart: boolean
}

/**
 * The layout of a loop's file: bytes before the first frame's data, and each frame's bytes in
 * order.
 */
export interface LoadedClip {
  readonly headBytes: number
  readonly frameBytes: readonly number[]
  readonly framesPerSecond: number
}

/** A delivered page: bytes as they are sent. */
export interface LoadedPage {
  readonly markup: number
  readonly style: number
  readonly script: number
  readonly poster: number
  /** Null if the visitor gets only the poster. */
  readonly clip: LoadedClip | null
  /**
   * Whether the markup itself asks for the clip at once, instead of the script once the page has
   * loaded.
   */
  readonly autoplay: boolean
}

/** What a machine itself takes, in milliseconds. */
export interface Machine {
  /** Between the end of one file and the request, or the picture, that follows from it. */
  readonly thinkingMs: number
  /**
   * From the index of a clip to a decoder that shows its first frame: the first data may come
   * meanwhile.
   */
  readonly playerMs: number
}

/** A file on its way: milliseconds from the start of the visit. */
export interface Transfer {
  readonly name: 'page' | 'style' | 'script' | 'poster' | 'clip'
  readonly bytes: number
  readonly askedMs: number
  readonly firstByteMs: number
  readonly doneMs: number
}

/** How a first load went, in milliseconds from its start. */
export interface FirstLoad {
  readonly transfers: readonly Transfer[]
  readonly posterMs: number
  /** When the clip starts to move; null without one. */
  readonly motionMs: number | null
  /**
   * How often the clip stops on its first turn since data are late, and for how long altogether.
   */
  readonly stalls: number
  readonly stalledMs: number
  readonly bytes: number
}

/** An ordinary laptop. */
const ORDINARY: Machine = { thinkingMs: 12, playerMs: 80 }
/** Segments that a connection starts with. Source: RFC 6928, section 2. */
const FIRST_SEGMENTS = 10
const SEGMENT_BYTES = 1460
/**
 * A player starts when so much of the clip has come, in seconds of it, and shows it a little later.
 */
const START_SECONDS = 0.12
const SHOWING_MS = 40
const HEAD_BYTES = 350
/** Steps of the simulation, and its maximum length. */
const STEP_MS = 2
const LONGEST_MS = 15 * 60_000

interface Running {
  readonly name: Transfer['name']
  readonly bytes: number
  readonly urgency: number
  readonly askedMs: number
  got: number
  firstByteMs: number | null
  doneMs: number | null
}

/** Simulates the first load of a page on a line, by a machine. */
export function firstLoad(
  page: LoadedPage,
  line: Line,
  { thinkingMs, playerMs } = ORDINARY,
): FirstLoad {
  const clipBytes = page.clip
    ? page.clip.headBytes + page.clip.frameBytes.reduce((sum, bytes) => sum + bytes, 0)
    : 0
  const running: Running[] = []
  const arrivals: { ms: number; bytes: number }[] = []
  const ask = (name: Transfer['name'], bytes: number, urgency: number, askedMs: number): void =>
    void running.push({
      name,
      bytes: bytes + HEAD_BYTES,
      urgency,
      askedMs,
      got: 0,
      firstByteMs: null,
      doneMs: null,
    })
  const find = (name: Transfer['name']): Running | undefined =>
    running.find((each) => each.name === name)
  const done = (name: Transfer['name']): number | null => find(name)?.doneMs ?? null
  ask('page', page.markup, 3, line.handshakes * line.roundTripMs)
  let window = FIRST_SEGMENTS * SEGMENT_BYTES
  for (let now = 0; now < LONGEST_MS; now += STEP_MS) {
    const markup = done('page')
    if (markup !== null && !find('poster')) {
      const next = markup + thinkingMs
      ask('style', page.style, 2, next)
      ask('script', page.script, 2, next)
      ask('poster', page.poster, 2, next)
      if (page.autoplay && page.clip) ask('clip', clipBytes, 2, next)
    }
    const loaded =
      page.clip && !page.autoplay && !find('clip')
        ? [done('style'), done('script'), done('poster')]
        : []
    if (loaded.length > 0 && loaded.every((ms) => ms !== null))
      ask('clip', clipBytes, 1, Math.max(...(loaded as number[])) + thinkingMs)
    const open = running.filter(
      (each) => each.doneMs === null && now >= each.askedMs + line.roundTripMs,
    )
    if (
      open.length === 0 &&
      running.every((each) => each.doneMs !== null) &&
      (find('clip') || !page.clip) &&
      find('poster')
    )
      break
    const max = line.slowStart
      ? Math.min(line.bitsPerSecond / 8000, window / Math.max(1, line.roundTripMs))
      : line.bitsPerSecond / 8000
    window += share(open, max * STEP_MS, now)
    const clip = find('clip')
    if (clip) arrivals.push({ ms: now + STEP_MS, bytes: clip.got - HEAD_BYTES })
  }
  const transfers = running.map(({ name, bytes, askedMs, firstByteMs, doneMs }): Transfer => ({
    name,
    bytes,
    askedMs,
    firstByteMs: firstByteMs ?? LONGEST_MS,
    doneMs: doneMs ?? LONGEST_MS,
  }))
  return {
    transfers,
    posterMs: (done('poster') ?? LONGEST_MS) + thinkingMs,
    ...playing(page.clip, arrivals, playerMs),
    bytes: transfers.reduce((sum, { bytes }) => sum + bytes, 0),
  }
}

/**
 * Gives bytes to what is open, the most urgent first, equals alike. Gives back what was carried.
 */
function share(open: readonly Running[], bytes: number, now: number): number {
  let left = bytes
  for (const urgency of [3, 2, 1]) {
    let equals = open.filter((each) => each.urgency === urgency && each.doneMs === null)
    while (equals.length > 0 && left > 0.001) {
      const each = left / equals.length
      for (const transfer of equals) {
        const took = Math.min(each, transfer.bytes - transfer.got)
        transfer.got += took
        left -= took
        transfer.firstByteMs ??= now
        if (transfer.got >= transfer.bytes - 0.001) transfer.doneMs = now + STEP_MS
      }
      equals = equals.filter((transfer) => transfer.doneMs === null)
    }
  }
  return bytes - left
}

/** When a clip starts, and where it waits on its first turn. */
function playing(
  clip: LoadedClip | null,
  arrivals: readonly { readonly ms: number; readonly bytes: number }[],
  playerMs: number,
): Pick<FirstLoad, 'motionMs' | 'stalls' | 'stalledMs'> {
  if (!clip) return { motionMs: null, stalls: 0, stalledMs: 0 }
  const needed: number[] = []
  clip.frameBytes.reduce((sum, bytes) => (needed.push(sum + bytes), sum + bytes), clip.headBytes)
  const arrivedMs = (bytes: number): number =>
    arrivals.find((each) => each.bytes >= bytes - 0.5)?.ms ?? LONGEST_MS
  const first = Math.min(needed.length - 1, Math.round(START_SECONDS * clip.framesPerSecond))
  const motionMs = Math.max(
    arrivedMs(needed[first]!) + SHOWING_MS,
    arrivedMs(clip.headBytes) + playerMs,
  )
  let clock = motionMs
  let [stalls, stalledMs, at] = [0, 0, 0]
  for (let k = 0; k < needed.length; k++) {
    while (at < arrivals.length && arrivals[at]!.bytes < needed[k]! - 0.5) at += 1
    const ready = arrivals[at]?.ms ?? LONGEST_MS
    if (ready > clock + 1) {
      stalls += 1
      // A player that ran dry waits for a little more than the frame it lacks.
      const resume = arrivedMs(needed[Math.min(needed.length - 1, k + first)]!)
      stalledMs += resume - clock
      clock = resume
    }
    clock += 1000 / clip.framesPerSecond
  }
  return { motionMs, stalls, stalledMs: Math.round(stalledMs) }
}

/** Lines to choose from, with what is assumed of them. */
export const LINES = {
  'slow phone': {
    bitsPerSecond: 1_600_000,
    roundTripMs: 150,
    handshakes: 3,
    slowStart: true,
    note: 'mobile at the edge of a cell: 1.6 Mbit/s, 150 ms, DNS, TCP and TLS before the first request',
  },
  'fair phone': {
    bitsPerSecond: 9_000_000,
    roundTripMs: 80,
    handshakes: 3,
    slowStart: true,
    note: 'mobile in town: 9 Mbit/s, 80 ms',
  },
  'home line': {
    bitsPerSecond: 30_000_000,
    roundTripMs: 25,
    handshakes: 2,
    slowStart: true,
    note: 'cable or DSL over Wi-Fi: 30 Mbit/s, 25 ms',
  },
  'fast line': {
    bitsPerSecond: 200_000_000,
    roundTripMs: 8,
    handshakes: 2,
    slowStart: true,
    note: 'fibre: 200 Mbit/s, 8 ms',
  },
} as const satisfies Record<string, Line & { readonly note: string }>
export type LineName = keyof typeof LINES
