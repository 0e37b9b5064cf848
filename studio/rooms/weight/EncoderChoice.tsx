import { FIRST_DECISIONS, type BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { clipRecipes } from '../../../core/backdrop/recipe'
import { FAMILIES, type Family } from '../../../core/weight/families'
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
  const missing = deliveredFamilies(document, sources).filter((family) => present[family] === null)
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
        <>
          <Chosen document={document} sources={sources} present={present} onChoose={choose} />
          {workers && workers.length > 0 && missing.length > 0 && (
            <p className="text-xs text-muted">{missingWords(missing)}.</p>
          )}
        </>
      ) : (
        <p className="text-xs text-muted">
          {workers
            ? workerWords(workers.length, isThere, missing)
            : isError
              ? 'It is not known which render workers there are: the server does not answer.'
              : 'Looking for render workers …'}
        </p>
      )}
    </Group>
  )
}

const deliveredFamilies = (document: BackdropDocument, { known }: LoadedSources): Family[] =>
  FAMILIES.filter((family) =>
    clipRecipes(document, known).some(({ recipe }) => recipe.family === family),
  )

/** What the machine of the render worker lacks. */
const missingWords = (missing: readonly Family[]): string =>
  `The render worker has no encoder for ${missing.map((family) => FORMAT_NAMES[family]).join(', ')}, whose files would be about a third smaller. On its machine, if it is a Debian: sudo apt-get install ${missing.map((family) => DEBIAN_PACKAGES[family]).join(' ')}`

/** What a render worker would give, or what it lacks. */
function workerWords(workers: number, isThere: boolean, missing: readonly Family[]): string {
  if (workers === 0)
    return 'No render worker is running. Its files would be about a third smaller: start Telon with npm start.'
  if (missing.length > 0)
    return `${missingWords(missing)}.${isThere ? ' Its other files are smaller all the same.' : ''}`
  return isThere
    ? 'A render worker’s files are about a third smaller at the same quality. They take longer, and are rendered without this page.'
    : 'The render worker has no encoder for pictures: its machine is one that the package sharp is not made for.'
}

/** The encoders that were chosen, and whether there are better ones by now. */
function Chosen({
  document,
  sources,
  present,
  onChoose,
}: Props & { present: EncoderNames; onChoose: (encoders: EncoderNames) => void }) {
  const { encoders } = document.weight
  const delivered = deliveredFamilies(document, sources)
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
