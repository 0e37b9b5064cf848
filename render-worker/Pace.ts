import type { WorkerFacts } from '../core/api/work'
import type { PictureFormat, ProbeRecipe, Recipe } from '../core/backdrop/recipe'

/** Steps of a job that take time. */
export type TimedStep = 'frames' | 'probe' | 'pass'

/** Seconds that a megapixel takes where nothing has been measured, by step. */
const USUAL: Readonly<Record<TimedStep, number>> = { frames: 0.06, probe: 0.4, pass: 1 }
/** The same of pictures, for which several qualities are tried. */
const USUAL_PICTURE: Readonly<Record<PictureFormat, number>> = {
  avif: 10,
  webp: 2,
  jpeg: 1,
  svg: 0.1,
}
/** Weight of the latest job in the moving average. */
const LATEST_WEIGHT = 0.5
/** Passes that a clip takes on average; a third one is rare. */
const PASSES = 2
/** What a step has taken tells nothing before so much of it is done. */
const MIN_SHARE = 0.05

/** Megapixels of all frames. */
const effortOf = ({ width, height, sequence, kind }: Recipe | ProbeRecipe): number =>
  (width * height * (kind === 'poster' ? 1 : sequence.frames)) / 1e6

/** How fast this machine is, step by step, for each encoder; learnt from the jobs it has done. */
export class Pace {
  private readonly learnt = new Map<string, number>()
  /** Of clips, by encoder. */
  private readonly passes = new Map<string | null, number>()

  /** Notes what a step took that was done from its beginning to its end. */
  learn(recipe: Recipe | ProbeRecipe, step: TimedStep, seconds: number): void {
    const key = this.keyOf(recipe, step)
    const latest = seconds / effortOf(recipe)
    const before = this.learnt.get(key)
    const mean =
      before === undefined ? latest : before * (1 - LATEST_WEIGHT) + latest * LATEST_WEIGHT
    this.learnt.set(key, mean)
    if (step === 'pass' && recipe.kind === 'clip') this.passes.set(recipe.encoder, mean)
  }

  /** Seconds that a step of a recipe takes. */
  expected(recipe: Recipe | ProbeRecipe, step: TimedStep): number {
    const usual = recipe.kind === 'poster' ? USUAL_PICTURE[recipe.format] : USUAL[step]
    return (this.learnt.get(this.keyOf(recipe, step)) ?? usual) * effortOf(recipe)
  }

  /** Megapixels a second of passes, for each encoder that has made one. */
  speeds(): WorkerFacts['speeds'] {
    return [...this.passes].map(([encoder, seconds]) => ({ encoder, megapixels: 1 / seconds }))
  }

  private keyOf(recipe: Recipe | ProbeRecipe, step: TimedStep): string {
    const format = recipe.kind === 'poster' ? recipe.format : ''
    return `${format} ${recipe.encoder ?? 'browser'} ${step}`
  }
}

/** How far one job is, told from its steps as they happen. */
export class JobClock {
  private step: TimedStep | null = null
  private pass = 0
  /** Share of the step that was done when it was last heard of. */
  private stepDone = 0
  /** When that was. */
  private heardAt: number
  private readonly startedAt: number
  private stepAt: number
  constructor(
    private readonly pace: Pace,
    private readonly recipe: Recipe | ProbeRecipe,
    private readonly now: () => number,
  ) {
    this.startedAt = now()
    this.stepAt = this.startedAt
    this.heardAt = this.startedAt
  }

  /** Share of the whole job that is done, and the seconds that are left. */
  at(step: TimedStep, done: number, pass: number): { done: number; secondsLeft: number } {
    const now = this.now()
    const isNew = step !== this.step || pass !== this.pass
    if (isNew) this.begin(step, pass, now)
    // Asked again while nothing was heard, what is left has become less.
    if (isNew || done !== this.stepDone) this.heardAt = now
    this.stepDone = done
    const spent = now - this.stepAt
    const expected =
      done > MIN_SHARE ? (this.heardAt - this.stepAt) / done : this.pace.expected(this.recipe, step)
    const later = this.laterSteps(step, pass).reduce(
      (sum, each) => sum + this.pace.expected(this.recipe, each),
      0,
    )
    const secondsLeft = Math.max(0, expected - spent) + later
    const elapsed = now - this.startedAt
    return { done: Math.min(1, elapsed / Math.max(1e-9, elapsed + secondsLeft)), secondsLeft }
  }

  /** The job is done: its last step took what it took. */
  end(): void {
    // A picture tells nothing before it is done.
    this.stepDone = 1
    this.learnStep(this.now())
  }

  private begin(step: TimedStep, pass: number, now: number): void {
    this.learnStep(now)
    this.step = step
    this.pass = pass
    this.stepAt = now
  }

  private learnStep(now: number): void {
    // Frames that are there already take no time.
    if (this.step && this.stepDone > 0) this.pace.learn(this.recipe, this.step, now - this.stepAt)
  }

  private laterSteps(step: TimedStep, pass: number): TimedStep[] {
    const { kind } = this.recipe
    const passes = (count: number): TimedStep[] => Array.from({ length: count }, () => 'pass')
    if (kind === 'poster') return []
    if (kind === 'probe') return step === 'frames' ? ['probe'] : []
    if (step === 'frames') return ['probe', ...passes(PASSES)]
    return step === 'probe' ? passes(PASSES) : passes(Math.max(0, PASSES - 1 - pass))
  }
}
