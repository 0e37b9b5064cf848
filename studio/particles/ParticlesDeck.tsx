import { DeckTabs } from '../ui/DeckTabs'
import { DECK_SHELL, type DeckProps } from '../rooms/Room'
import { CostDeck } from './CostDeck'
import { DefinitionDeck } from './DefinitionDeck'
import { LiveOrRendered } from './LiveOrRendered'
import { useParticleView } from './particleView'

/** What particles cost, and their definition as text. */
export function ParticlesDeck(props: DeckProps) {
  const { document } = props
  const { deck, set } = useParticleView()
  const { particles } = document
  if (!particles)
    return (
      <p className={`${DECK_SHELL} text-muted`}>
        Choose a style to see here what it costs. Particles are drawn live by a small script over
        any base, or rendered with it into one clip.
      </p>
    )
  return (
    <DeckTabs
      view={deck}
      onChange={(next) => set({ deck: next })}
      views={{
        cost: {
          label: 'Cost',
          draw: () => <CostDeck {...props} particles={particles} />,
        },
        form: { label: 'Live or clip', draw: () => <LiveOrRendered {...props} /> },
        definition: {
          label: 'Definition',
          // Another style is another text: what was written over the last one goes.
          draw: () => <DefinitionDeck key={particles.style} particles={particles} />,
        },
      }}
    />
  )
}
