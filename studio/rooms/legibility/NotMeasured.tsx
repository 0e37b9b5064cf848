import { useContrastStore } from '../../state/contrastStore'
import { Button } from '../../ui/controls'

/** Why nothing is measured yet, or that it failed, with a way to go on. */
export function NotMeasured() {
  const { reading, error, attempt, set } = useContrastStore()
  if (error)
    return (
      <div role="alert" className="flex flex-wrap items-center gap-3">
        <p className="text-fix">{error}</p>
        <Button onClick={() => set({ attempt: attempt + 1 })}>Measure again</Button>
      </div>
    )
  return (
    <p role="status" className="text-muted">
      {reading === null
        ? 'Measuring …'
        : `Reading every frame once, ${Math.round(reading * 100)} %. After that each change takes a moment only.`}
    </p>
  )
}
