import { Button } from './controls'

/** Chooses one of two forms of delivery in the table that compares them. */
export function DeliverButton({
  label,
  isChosen,
  isPossible = true,
  onChoose,
}: {
  label: string
  isChosen: boolean
  isPossible?: boolean
  onChoose: () => void
}) {
  return (
    <Button
      tone={isChosen ? 'accent' : 'plain'}
      className="min-h-6! px-2!"
      aria-pressed={isChosen}
      disabled={!isPossible}
      onClick={onChoose}
    >
      {isChosen ? `${label}: chosen` : `Deliver ${label.toLowerCase()}`}
    </Button>
  )
}
