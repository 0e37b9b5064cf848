/** A file that a picture could be, at one quality. */
export interface QualityOption {
  readonly bytes: number
  readonly ssim: number
}

/** How many bytes some of several pictures may take together. */
export interface SharedBudget {
  /** Their places. */
  readonly pictures: readonly number[]
  readonly bytes: number
}

/**
 * Of the options of several pictures one each, so that the *worst* of them is as good as possible
 * and no budget is exceeded; bytes that are left make the worst ones better still, one after
 * another. Null where even the smallest options exceed a budget. Options of a picture need no
 * order. Throws RangeError where a picture has none.
 */
export function shareBytes<O extends QualityOption>(
  pictures: readonly (readonly O[])[],
  budgets: readonly SharedBudget[],
): O[] | null {
  const ladders = pictures.map(ladderOf)
  const chosen = ladders.map(() => 0)
  if (!fits(ladders, chosen, budgets)) return null
  const isDone = ladders.map(() => false)
  while (true) {
    let worst = -1
    for (const [index, ladder] of ladders.entries()) {
      const isOpen = !isDone[index] && chosen[index]! < ladder.length - 1
      if (isOpen && (worst < 0 || ssimOf(index) < ssimOf(worst))) worst = index
    }
    if (worst < 0) return ladders.map((ladder, index) => ladder[chosen[index]!]!)
    chosen[worst]! += 1
    if (!fits(ladders, chosen, budgets)) {
      // What this picture cannot have, a better one may still use.
      chosen[worst]! -= 1
      isDone[worst] = true
    }
  }

  function ssimOf(index: number): number {
    return ladders[index]![chosen[index]!]!.ssim
  }
}

/** What a picture may take alone at most. */
export const ownLimit = (budgets: readonly SharedBudget[], index: number): number =>
  Math.min(...budgets.filter(({ pictures }) => pictures.includes(index)).map(({ bytes }) => bytes))

/** The options of a picture that are worth their bytes, lightest and coarsest first. */
function ladderOf<O extends QualityOption>(options: readonly O[]): O[] {
  if (options.length === 0) throw new RangeError('a picture has options')
  const ordered = [...options].sort((a, b) => a.bytes - b.bytes || b.ssim - a.ssim)
  return ordered.filter(
    ({ ssim }, index) => index === 0 || ordered.slice(0, index).every((each) => each.ssim < ssim),
  )
}

function fits(
  ladders: readonly (readonly QualityOption[])[],
  chosen: readonly number[],
  budgets: readonly SharedBudget[],
): boolean {
  return budgets.every(({ pictures, bytes }) => {
    const sum = pictures.reduce((all, index) => all + ladders[index]![chosen[index]!]!.bytes, 0)
    return sum <= bytes
  })
}
