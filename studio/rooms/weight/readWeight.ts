import type { FirstVisit } from '../../../core/backdrop/firstVisit'
import { SCREENS } from '../../../core/fit/screens'
import { rendersClips, picturesOf } from '../../../core/backdrop/delivered'
import { FORMAT_NAMES, kilobytes, megabytes } from '../../ui/format'
import { isAsking, madeVisits, type Balance, type Readout } from '../Balance'
import { overFloors } from './overFloors'

/** What a first visit takes on a laptop. */
export function readWeight(balance: Balance): Readout {
  const { document, jobs } = balance
  const visits = madeVisits(balance)
  const shown = visits.find((visit) => visit.screenClass === 'laptop')!
  if (!rendersClips(document)) return readPictures(balance, visits, shown)
  const unit = `of ${megabytes(shown.budgetBytes)} MB`
  const figure = shown.clip > 0 ? megabytes(shown.total) : '–'
  if (jobs.some((job) => job.state === 'running'))
    return { figure, unit, note: `${jobs.length} files rendering`, standing: 'busy' }
  if (isAsking(balance))
    return { figure, unit, note: 'checking which files exist', standing: 'busy' }
  if (shown.clip === 0) return { figure, unit, note: 'not rendered for this cut', standing: 'look' }
  const phone = visits.find((visit) => visit.screenClass === 'phone')!
  const phones =
    document.behaviour.phone === 'poster'
      ? 'phone shows the poster'
      : phone.clip === 0
        ? 'phone not rendered yet'
        : `phone ${megabytes(phone.total)} of ${megabytes(phone.budgetBytes)}`
  const [over] = overFloors(document, balance.sources, balance.made)
  if (over)
    return {
      figure,
      unit,
      note: `${SCREENS[over.screenClass].label}: too little for ${FORMAT_NAMES[over.family]}`,
      standing: 'fix',
    }
  const unmade = visits.find(
    (visit) =>
      visit.clip === 0 && !(visit.screenClass === 'phone' && document.behaviour.phone === 'poster'),
  )
  if (unmade && unmade !== phone)
    return {
      figure,
      unit,
      note: `${SCREENS[unmade.screenClass].label.toLowerCase()} not rendered yet`,
      standing: 'look',
    }
  return {
    figure,
    unit,
    note: phones,
    standing: visits.some((visit) => visit.total > visit.budgetBytes)
      ? 'fix'
      : unmade
        ? 'look'
        : 'settled',
  }
}

/** The same of a base without clips: its pictures, or the page alone. */
function readPictures(balance: Balance, visits: readonly FirstVisit[], shown: FirstVisit): Readout {
  const figure = kilobytes(shown.total)
  if (!picturesOf(balance.document))
    return { figure, unit: 'kB', note: 'page alone, nothing to load', standing: 'settled' }
  const unit = `kB of ${megabytes(shown.budgetBytes)} MB`
  if (balance.jobs.some((job) => job.state === 'running'))
    return { figure, unit, note: `${balance.jobs.length} files rendering`, standing: 'busy' }
  if (visits.some(({ poster }) => poster === 0))
    return isAsking(balance)
      ? { figure: '…', unit, note: 'checking which files exist', standing: 'busy' }
      : { figure: 'none', unit: '', note: 'pictures not rendered yet', standing: 'look' }
  const phone = visits.find(({ screenClass }) => screenClass === 'phone')!
  const heavy = visits.find(({ cycle }) => cycle && cycle.total > cycle.budgetBytes)
  if (heavy)
    return {
      figure,
      unit,
      note: `${SCREENS[heavy.screenClass].label.toLowerCase()}: whole cycle over its budget`,
      standing: 'fix',
    }
  return {
    figure,
    unit,
    note: `phone ${kilobytes(phone.total)} kB`,
    standing: visits.some(({ total, budgetBytes }) => total > budgetBytes) ? 'fix' : 'settled',
  }
}
