import { useRef, useState, type ChangeEvent } from 'react'
import type { Particles } from '../../core/particles/Particles'
import { MAX_DEFINITION_CHARS, readDefinition } from '../../core/particles/readDefinition'
import { useBackdrop } from '../state/backdropStore'
import { useNotices } from '../state/noticeStore'
import { Button } from '../ui/controls'

/** The definition as text, as it is exchanged: what is wrong is told line by line. */
export function DefinitionDeck({ particles }: { particles: Particles }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const present = textOf(particles)
  const [draft, setDraft] = useState<string | null>(null)
  const text = draft ?? present
  const read = readDefinition(text)
  const lines = text.split('\n')
  const wrong = new Set(read.ok ? [] : read.error.map(({ line }) => line))
  const take = (): void => {
    if (!read.ok) return
    dispatch({
      type: 'particles/set',
      particles: { ...particles, style: null, definition: read.value },
    })
    setDraft(null)
  }
  return (
    <div className="flex h-full min-h-0 gap-3 px-4 py-2 max-md:flex-col">
      <div className="flex min-h-0 min-w-0 flex-1 overflow-auto rounded border border-line bg-white font-mono text-xs leading-5 max-md:min-h-64">
        <div aria-hidden className="shrink-0 border-r border-line px-2 py-1 text-right text-muted">
          {lines.map((_, index) => (
            <div key={index} className={wrong.has(index + 1) ? 'font-bold text-fix' : ''}>
              {index + 1}
            </div>
          ))}
        </div>
        <textarea
          aria-label="Definition as text"
          aria-invalid={!read.ok}
          aria-describedby="definition-problems"
          spellCheck={false}
          wrap="off"
          rows={lines.length}
          value={text}
          onChange={(event) => setDraft(event.target.value)}
          onKeyDown={(event) => event.key === 'Escape' && setDraft(null)}
          className="min-w-0 flex-1 resize-none overflow-hidden bg-transparent px-2 py-1 whitespace-pre outline-none"
        />
      </div>
      <div className="flex w-80 shrink-0 flex-col gap-2 overflow-auto text-[0.82rem] max-md:w-full">
        <div className="flex flex-wrap gap-2">
          <Button tone="accent" disabled={draft === null || !read.ok} onClick={take}>
            Apply
          </Button>
          <Button disabled={draft === null} onClick={() => setDraft(null)}>
            Discard
          </Button>
          <Button onClick={() => save(text, particles)}>Save as file</Button>
          <OpenFile onText={setDraft} />
        </div>
        <div id="definition-problems" role="status">
          {read.ok ? (
            <p className="text-muted">
              {draft === null
                ? 'Paste another definition over it, or change it here.'
                : 'It can be read. Apply shows it on the stage, as one step to undo.'}
            </p>
          ) : (
            <ul className="flex flex-col gap-1">
              {read.error.map(({ line, message }, index) => (
                <li key={index}>
                  <b className="font-semibold text-fix">Line {line}.</b> {message}
                </li>
              ))}
            </ul>
          )}
        </div>
      </div>
    </div>
  )
}

/** Takes a definition from a file of this machine into the text, where it can still be changed. */
function OpenFile({ onText }: { onText: (text: string) => void }) {
  const tell = useNotices((state) => state.tell)
  const input = useRef<HTMLInputElement>(null)
  const take = async ({ target }: ChangeEvent<HTMLInputElement>): Promise<void> => {
    const [file] = target.files ?? []
    // The same file can be chosen again.
    target.value = ''
    if (!file) return
    // UTF-8 takes four bytes a character at most.
    if (file.size > 4 * MAX_DEFINITION_CHARS)
      return tell(`${file.name} is too large for a definition. Choose another file.`)
    try {
      onText(await file.text())
    } catch {
      tell(`${file.name} could not be read. Choose it again.`)
    }
  }
  return (
    <>
      <Button onClick={() => input.current?.click()}>Open a file …</Button>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        aria-label="File with a definition"
        hidden
        onChange={(event) => void take(event)}
      />
    </>
  )
}

/** Small objects on a line of their own, as they are read best. */
function textOf({ definition }: Particles): string {
  const lines = Object.entries(definition).map(([name, value]) => {
    const text = JSON.stringify(value, null, 1).replace(/\n\s*/g, ' ')
    return name === 'motion' ? `  "motion": ${motionText(value as object)}` : `  "${name}": ${text}`
  })
  return `{\n${lines.join(',\n')}\n}\n`
}

const motionText = (motion: object): string => {
  const lines = Object.entries(motion).map(
    ([name, value]) => `    "${name}": ${JSON.stringify(value, null, 1).replace(/\n\s*/g, ' ')}`,
  )
  return `{\n${lines.join(',\n')}\n  }`
}

function save(text: string, { definition }: Particles): void {
  const link = window.document.createElement('a')
  const url = URL.createObjectURL(new Blob([text], { type: 'application/json' }))
  link.href = url
  link.download = `${definition.name.toLowerCase().replace(/[^a-z0-9]+/g, '-') || 'particles'}.json`
  link.click()
  URL.revokeObjectURL(url)
}
