import { FIRST_DECISIONS, type BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { clipRecipes } from '../../../core/backdrop/recipe'
import { FAMILIES } from '../../../core/weight/families'
import { bestNames, type EncoderNames } from '../../../core/weight/native/bestNames'
import { DEBIAN_PACKAGES } from '../../../core/weight/native/encoders'
import { useRenderWorkers } from '../../api/queries'
import { useBackdrop } from '../../state/backdropStore'
import type { LoadedSources } from '../../state/loadedSources'
import { rendersApart } from '../../state/workStore'
import { Choice, Group, Note } from '../../ui/controls'
import { FORMAT_NAMES } from '../../ui/format'

interface Props {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
}

/** What encodes the files: this browser at once, or a render worker for the smallest ones. */
export function EncoderChoice({ document, sources }: Props) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { data: workers, isError } = useRenderWorkers()
  const present = bestNames(workers?.flatMap(({ encoders }) => encoders) ?? [])
  const apart = rendersApart(document)
  const isThere = Object.values(present).some((name) => name !== null)
  const choose = (encoders: EncoderNames): void =>
    dispatch({ type: 'weight/set', weight: { encoders } })
  return (
    <Group title="Encoder">
      <Choice
        label="Encoder"
        hideLabel
        value={apart ? 'worker' : 'browser'}
        onChange={(next) => choose(next === 'worker' ? present : FIRST_DECISIONS.weight.encoders)}
        options={[
          { value: 'browser', label: 'Fast', note: 'this browser' },
          {
            value: 'worker',
            label: 'Smallest',
            note: 'render worker',
            disabled: !apart && !isThere,
          },
        ]}
      />
      {apart ? (
        <Chosen document={document} sources={sources} present={present} onChoose={choose} />
      ) : (
        <p className="text-xs text-muted">
          {isThere
            ? 'A render worker’s files are about a third smaller at the same quality. They take longer, and are rendered without this page.'
            : workers
              ? workers.length === 0
                ? 'No render worker is running. Its files would be about a third smaller: start Telon with npm start.'
                : `The render worker has no encoders. Its files would be about a third smaller; on a Debian machine: sudo apt-get install ${Object.values(DEBIAN_PACKAGES).join(' ')}`
              : isError
                ? 'It is not known which render workers there are: the server does not answer.'
                : 'Looking for render workers …'}
        </p>
      )}
    </Group>
  )
}

/** The encoders that were chosen, and whether there are better ones by now. */
function Chosen({
  document,
  sources,
  present,
  onChoose,
}: Props & { present: EncoderNames; onChoose: (encoders: EncoderNames) => void }) {
  const { encoders } = document.weight
  const delivered = FAMILIES.filter((family) =>
    clipRecipes(document, sources.known).some(({ recipe }) => recipe.family === family),
  )
  const parts = [
    ...delivered.map((family) => `${FORMAT_NAMES[family]}: ${encoders[family] ?? 'the browser’s'}`),
    `pictures: ${encoders.pictures ?? 'the browser’s'}`,
  ]
  const others = ([...delivered, 'pictures'] as const).filter(
    (each) => present[each] !== null && present[each] !== encoders[each],
  )
  return (
    <>
      <p className="text-xs text-muted">{parts.join('; ')}.</p>
      {others.length > 0 && (
        <Note tone="plain">
          There are others by now: {others.map((each) => present[each]).join(', ')}. Files are
          rendered anew with them.{' '}
          <button type="button" className="underline" onClick={() => onChoose(present)}>
            Use them
          </button>
        </Note>
      )}
    </>
  )
}
