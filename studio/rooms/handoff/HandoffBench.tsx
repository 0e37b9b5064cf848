import { Copy, Download, ExternalLink } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { handoffSchema, type BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { recipeKey } from '../../../core/backdrop/recipe'
import { isMoving, rendersClips } from '../../../core/backdrop/delivered'
import { shortId } from '../../../core/handoff/deliveredFiles'
import { textFiles } from '../../../core/handoff/emitHandoff'
import { api, messageOf } from '../../api/client'
import { useBackdrop } from '../../state/backdropStore'
import { freshOf, useContrastStore } from '../../state/contrastStore'
import { useStage } from '../../state/stageStore'
import { useMarkup } from '../../state/markupStore'
import { useNotices } from '../../state/noticeStore'
import { finalRecipes, useWork } from '../../state/workStore'
import {
  Button,
  Choice,
  DraftField,
  Group,
  NumberField,
  StandingMark,
  Toggle,
} from '../../ui/controls'
import { formatBytes } from '../../ui/format'
import { isReadable } from '../Balance'
import { NotMeasured } from '../legibility/NotMeasured'
import { toldWorst } from '../legibility/toldWorst'
import type { BenchProps } from '../Room'
import { MakeFiles } from '../weight/MakeFiles'
import { deliveredMedia } from './deliveredMedia'

/** Download, open, paste; and how markup and addresses are written. */
export function HandoffBench({ document, sources, backdropId }: BenchProps) {
  const made = useWork((state) => state.made)
  const save = useBackdrop((state) => state.save)
  const recipes = finalRecipes(document, sources.known)
  const ready = recipes.every((recipe) => made[recipeKey(recipe)]) && save !== 'conflict'
  return (
    <>
      <CopyCheck document={document} sources={sources} backdropId={backdropId} />
      {!ready && <MakeFiles document={document} sources={sources} />}
      <FolderGroup
        backdropId={backdropId}
        document={document}
        ready={ready}
        files={deliveredMedia(backdropId, document, sources, made).files}
      />
      <MarkupGroup document={document} backdropId={backdropId} ready={ready} />
      <WordsGroup document={document} />
      <IndexGroup document={document} />
    </>
  )
}

/** Whether all copy can be read on every screen at any time; leads to where it cannot. */
function CopyCheck({
  document,
  sources,
  backdropId,
}: Pick<BenchProps, 'document' | 'sources' | 'backdropId'>) {
  const contrasts = useContrastStore((state) => state.contrasts)
  const needed = useStage((state) => state.needed)
  const watched = useStage((state) => state.worst)
  const worst = toldWorst(freshOf(contrasts, document, sources)) ?? watched
  const readable = worst && isReadable(worst, needed)
  return (
    <Group title="Copy on all screens" aside="checked over every frame">
      {worst ? (
        <p role="status" className="flex items-baseline gap-2">
          <StandingMark standing={readable ? 'settled' : 'fix'} />
          <span>
            {readable ? 'Readable throughout. Least: ' : 'Cannot be read everywhere: '}
            <b className="font-semibold">
              {worst.ratio.toFixed(2)} : 1, {worst.where}
            </b>
            {!readable && `; needs ${worst.needed ?? needed}`}
          </span>
        </p>
      ) : (
        <NotMeasured />
      )}
      {worst && !readable && (
        <Link to={`/backdrops/${backdropId}/legibility`} replace className="underline">
          Show it under Legibility
        </Link>
      )}
    </Group>
  )
}

function FolderGroup({
  backdropId,
  document,
  ready,
  files,
}: {
  backdropId: string
  document: BackdropDocument
  ready: boolean
  files: readonly { readonly bytes: number }[]
}) {
  const saved = useSaved()
  const bytes = files.reduce((sum, file) => sum + file.bytes, 0)
  const count = files.length + textFiles(shortId(backdropId), document).length
  const go = (url: string, tab: boolean) => async (): Promise<void> => {
    const opened = tab ? window.open('about:blank', '_blank') : null
    if (!(await saved())) return opened?.close()
    if (opened) opened.location.href = url
    else location.href = url
  }
  return (
    <Group
      title="Folder"
      aside={
        ready
          ? `${count} files, ${bytes > 0 ? `${formatBytes(bytes)} of media` : 'no media'}`
          : 'render the files first'
      }
    >
      <Button
        tone={ready ? 'accent' : 'plain'}
        disabled={!ready}
        onClick={() => void go(`/handoff/${backdropId}/zip`, false)()}
      >
        <Download className="size-4" aria-hidden />
        Download as zip
      </Button>
      <Button
        disabled={!ready}
        onClick={() => void go(`/handoff/${backdropId}/site/index.html`, true)()}
      >
        <ExternalLink className="size-4" aria-hidden />
        Open in a new tab
      </Button>
    </Group>
  )
}

function MarkupGroup({
  document,
  backdropId,
  ready,
}: Pick<BenchProps, 'document' | 'backdropId'> & { ready: boolean }) {
  const saved = useSaved()
  const tell = useNotices((state) => state.tell)
  const { form, setForm } = useMarkup()
  const set = useHandoff()
  const [copied, setCopied] = useState(false)
  const { handoff } = document
  // As the folder has it, with the hashes of its files.
  const paste = async (): Promise<void> => {
    if (!(await saved())) return
    try {
      const file = form === 'fragment' ? 'fragment.html' : 'backdrop-only.html'
      await navigator.clipboard.writeText(await api.readFolderText(backdropId, file))
      setCopied(true)
      setTimeout(() => setCopied(false), 2500)
    } catch (error) {
      tell(`The markup could not be copied. ${messageOf(error)}`)
    }
  }
  return (
    <Group title="Markup to paste" aside={`id ${shortId(backdropId)}`}>
      <Choice
        label="What is pasted"
        hideLabel
        value={form}
        onChange={setForm}
        options={[
          { value: 'fragment', label: 'With copy', note: 'a section of its own' },
          { value: 'alone', label: 'Background only', note: 'behind your section' },
        ]}
      />
      <DraftField
        label="Address of the folder on the site"
        value={handoff.baseUrl}
        placeholder="/backdrops/"
        onCommit={(text) => {
          const address = text.trim() === '' || text.endsWith('/') ? text.trim() : `${text.trim()}/`
          return set('baseUrl', address)
        }}
      />
      <p className="text-xs text-muted">
        {handoff.baseUrl === ''
          ? 'Without an address the markup only works on a page that lies beside the folder.'
          : 'Style, script and media are looked for there, from every page of the site.'}
      </p>
      {form === 'fragment' && (
        <NumberField
          label="Level of the heading"
          value={handoff.headingLevel}
          low={1}
          high={6}
          onChange={(level) => set('headingLevel', Math.round(level))}
        />
      )}
      <Button disabled={!ready} onClick={() => void paste()}>
        <Copy className="size-4" aria-hidden />
        {copied ? 'Copied' : 'Copy markup'}
      </Button>
      {!ready && (
        <p className="text-xs text-muted">
          The names of the files hold a hash of their content, so they must be rendered first.
        </p>
      )}
      <span role="status" className="sr-only">
        {copied ? 'Markup copied.' : ''}
      </span>
    </Group>
  )
}

function WordsGroup({ document }: Pick<BenchProps, 'document'>) {
  const { handoff, behaviour } = document
  const set = useHandoff()
  const what = rendersClips(document) ? 'the clip' : 'it'
  return (
    <Group title="Language">
      <DraftField
        label="Language of copy and control"
        value={handoff.lang}
        onCommit={(text) => set('lang', text.trim())}
      />
      {behaviour.pauseControl && isMoving(document) && (
        <>
          <DraftField
            label={`Pause control, while ${what} plays`}
            value={handoff.pauseLabel}
            onCommit={(text) => set('pauseLabel', text)}
          />
          <DraftField
            label="Pause control, while it is paused"
            value={handoff.playLabel}
            onCommit={(text) => set('playLabel', text)}
          />
          <p className="text-xs text-muted">Read aloud by screen readers; not shown.</p>
        </>
      )}
    </Group>
  )
}

function IndexGroup({ document: { base, handoff } }: Pick<BenchProps, 'document'>) {
  const set = useHandoff()
  if (base.kind !== 'footage' || base.timing.repeat !== 'loop') return null
  return (
    <Group title="Index of the clips">
      <Toggle
        label="Plain index"
        note="For sites whose tools rewrite video files: those would write every repeat of the loop out. Browsers then pause for a moment at the loop point."
        enabled={handoff.plainIndex}
        onChange={(plainIndex) => set('plainIndex', plainIndex)}
      />
    </Group>
  )
}

/** Saves, because the server writes the folder from what is saved; tells where it cannot. */
function useSaved(): () => Promise<boolean> {
  const flush = useBackdrop((state) => state.flush)
  const tell = useNotices((state) => state.tell)
  return async () => {
    await flush()
    const { save, problem } = useBackdrop.getState()
    if (save === 'saved') return true
    tell(
      `The latest changes are not saved yet, so the folder would be an older one. ${problem ?? 'Try again in a moment.'}`,
    )
    return false
  }
}

type HandoffSettings = BackdropDocument['handoff']

/** Sets one decision about the handoff; gives the sentence why a value cannot be used, or null. */
function useHandoff() {
  const dispatch = useBackdrop((state) => state.dispatch)
  return <K extends keyof HandoffSettings>(name: K, value: HandoffSettings[K]): string | null => {
    const parsed = handoffSchema.shape[name].safeParse(value)
    if (!parsed.success) return parsed.error.issues[0]?.message ?? 'This cannot be used.'
    dispatch({ type: 'handoff/set', handoff: { [name]: parsed.data } })
    return null
  }
}
