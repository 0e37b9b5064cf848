import { recipeKey } from '../../../core/backdrop/recipe'
import { deliveredFiles } from '../../../core/handoff/deliveredFiles'
import { textFiles } from '../../../core/handoff/emitHandoff'
import { finalRecipes } from '../../state/workStore'
import { isAsking, isReadable, type Balance, type Readout } from '../Balance'

/** How many files the folder has, or how many are not rendered yet. */
export function readHandoff(balance: Balance): Readout {
  const { document, sources, made, jobs } = balance
  const keys = finalRecipes(document, sources.known).map(recipeKey)
  const missing = keys.filter((key) => !made[key]).length
  // Equal media are in the folder once.
  const media = deliveredFiles('', document, sources.known, (key) => made[key]).files
  if (missing === 0 && balance.worst && !isReadable(balance.worst, balance.needed))
    return {
      figure: '1',
      unit: 'check',
      note: `copy cannot be read: ${balance.worst.where}`,
      standing: 'look',
    }
  if (missing === 0)
    return {
      figure: String(media.length + textFiles('', document).length),
      unit: 'files',
      note: 'ready to download',
      standing: 'settled',
    }
  if (isAsking(balance))
    return { figure: '–', unit: 'files', note: 'checking which files exist', standing: 'busy' }
  return {
    figure: String(missing),
    unit: 'to render',
    note: jobs.length > 0 ? 'rendering' : `of ${keys.length} media files`,
    standing: jobs.length > 0 ? 'busy' : 'look',
  }
}
