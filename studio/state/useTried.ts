import { useMemo } from 'react'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { trialCopy } from '../../core/backdrop/trialCopy'
import { useStage } from './stageStore'

/** A document with the words that are tried on the stage; itself where none are. */
export function useTried(document: BackdropDocument): BackdropDocument {
  const trial = useStage((state) => state.trial)
  return useMemo(() => (trial ? trialCopy(document, trial) : document), [document, trial])
}
