import { Pencil, Plus, Trash2, Upload, X } from 'lucide-react'
import { useCallback, useEffect, useRef, useState, type DragEvent } from 'react'
import { useParams } from 'react-router'
import type { Source, UnfinishedUpload } from '../../core/api/wire'
import { api } from '../api/client'
import { useLoad } from '../api/useLoad'
import { Loading, Problem, Shell } from '../app/Shell'
import { useUploads, type UploadItem } from '../state/uploadStore'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Button, Progress } from '../ui/controls'
import { formatBytes, formatFps, formatLeft } from '../ui/format'
import { ClipThumb } from './ClipThumb'

/** A project's material. Files come by the button or by dropping them anywhere on the view. */
export function ShelfView() {
  const { projectId = '' } = useParams()
  const load = useCallback(
    async () => ({ project: await api.readProject(projectId), sources: await api.listSources(projectId), unfinished: await api.listUploads(projectId), config: await api.config() }),
    [projectId],
  )
  const { value, error, reload } = useLoad(load)
  const { items, arrivals, add } = useUploads()
  const picker = useRef<HTMLInputElement>(null)
  const [over, setOver] = useState(false)
  const [asking, setAsking] = useState<{ kind: 'rename' | 'delete'; source: Source } | null>(null)
  const [name, setName] = useState('')
  useEffect(() => {
    if (arrivals > 0) void reload()
  }, [arrivals, reload])
  if (error && !value) return <Shell crumbs={[{ label: 'Shelf' }]}><Problem message={error} onRetry={() => void reload()} /></Shell>
  if (!value) return <Shell crumbs={[{ label: 'Shelf' }]}><Loading /></Shell>
  const { project, sources, unfinished, config } = value
  const own = items.filter((item) => item.projectId === projectId)
  const take = (files: FileList | null): void => {
    if (files && files.length > 0) add(projectId, [...files], config.maxUploadBytes)
  }
  const drop = (event: DragEvent): void => {
    event.preventDefault()
    setOver(false)
    take(event.dataTransfer.files)
  }
  const resting = unfinished.filter((upload) => !own.some((item) => item.name === upload.filename && item.bytes === upload.bytes))
  return (
    <div
      className="relative h-full"
      onDragOver={(event) => {
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={(event) => event.currentTarget.contains(event.relatedTarget as Node) || setOver(false)}
      onDrop={drop}
    >
      <Shell
        crumbs={[{ label: 'Projects', to: '/' }, { label: project.name, to: `/projects/${project.id}` }, { label: 'Shelf' }]}
        actions={<Button tone="accent" onClick={() => picker.current?.click()}><Plus className="size-4" aria-hidden />Add clips</Button>}
      >
        <input ref={picker} type="file" multiple accept="video/*,.mkv,.mov" className="hidden" aria-label="Clips to add" onChange={(event) => {
          take(event.target.files)
          event.target.value = ''
        }} />
        <main className="min-h-0 flex-1 overflow-auto px-6 py-5">
          <h1 className="text-2xl figure-face">Shelf</h1>
          <p className="mb-4 text-muted">MP4, MOV, WebM or MKV, up to {formatBytes(config.maxUploadBytes)} each. Drop files anywhere on this view; each is read here before it is sent.</p>
          {(own.length > 0 || resting.length > 0) && (
            <ul aria-label="Uploads" className="mb-5 flex flex-col gap-2">
              {own.map((item) => <UploadRow key={item.id} item={item} />)}
              {resting.map((upload) => <RestingRow key={upload.id} upload={upload} onPick={() => picker.current?.click()} onGone={() => void reload()} />)}
            </ul>
          )}
          {sources.length === 0 && own.length === 0 && (
            <button type="button" onClick={() => picker.current?.click()} className="grid w-full place-items-center gap-3 rounded-lg border-2 border-dashed border-line-strong p-14 text-center hover:bg-sheet">
              <Upload className="size-8 text-curtain" aria-hidden />
              <span>The shelf is empty. Drop clips here, or choose them.</span>
            </button>
          )}
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(17rem,1fr))] gap-4">
            {sources.map((source) => (
              <li key={source.id} className="overflow-hidden rounded-lg border border-line bg-sheet">
                <ClipThumb source={source} className="aspect-video w-full" />
                <div className="px-3 py-2.5">
                  <div className="flex items-start justify-between gap-1">
                    <h2 className="truncate font-semibold" title={source.name}>{source.name}</h2>
                    <div className="flex">
                      <Button tone="quiet" className="px-1.5!" aria-label={`Rename ${source.name}`} title="Rename" onClick={() => { setName(source.name); setAsking({ kind: 'rename', source }) }}><Pencil className="size-3.5" aria-hidden /></Button>
                      <Button tone="quiet" className="px-1.5!" aria-label={`Delete ${source.name}`} title="Delete" onClick={() => setAsking({ kind: 'delete', source })}><Trash2 className="size-3.5" aria-hidden /></Button>
                    </div>
                  </div>
                  <Facts facts={source.facts} />
                  <p className="mt-1 text-xs text-muted">{source.usedBy.length === 0 ? 'not used yet' : `used by ${source.usedBy.join(', ')}`}</p>
                </div>
              </li>
            ))}
          </ul>
        </main>
      </Shell>
      {over && <div className="pointer-events-none absolute inset-0 z-40 grid place-items-center border-4 border-curtain bg-paper/85 text-xl font-semibold">Drop the clips to add them to {project.name}</div>}
      {asking?.kind === 'rename' && <AskDialog title="Rename clip" action="Rename" onClose={() => setAsking(null)} onAct={() => api.renameSource(asking.source.id, name).then(reload)}><TextLine label="Name" value={name} onChange={setName} /></AskDialog>}
      {asking?.kind === 'delete' && (
        <AskDialog title={`Delete ${asking.source.name}?`} action="Delete for good" danger onClose={() => setAsking(null)} onAct={() => api.deleteSource(asking.source.id).then(reload)}>
          <p>{asking.source.usedBy.length > 0 ? `It is used by ${asking.source.usedBy.join(', ')}: swap the clip there first.` : 'No backdrop uses it. The file on your machine stays as it is.'}</p>
        </AskDialog>
      )}
    </div>
  )
}

function Facts({ facts }: { facts: Source['facts'] }) {
  const { video } = facts
  return (
    <p className="font-mono text-xs text-muted">
      {video.displayWidth} × {video.displayHeight} · {(facts.durationMs / 1000).toFixed(1)} s · {formatFps(video.averageFps)} fps<br />
      {video.codecName} · {formatBytes(facts.bytes)} · {facts.audio ? 'with sound' : 'silent'}
    </p>
  )
}

function UploadRow({ item }: { item: UploadItem }) {
  const { cancel, retry, dismiss } = useUploads()
  const left = item.rate ? (item.bytes - item.sent) / item.rate : NaN
  const refused = item.state === 'refused' || item.state === 'failed'
  return (
    <li className={`rounded border bg-sheet px-3 py-2 ${refused ? 'border-fix' : 'border-line'}`}>
      <div className="flex flex-wrap items-center justify-between gap-2">
        <span className="font-medium">{item.name} <span className="font-normal text-muted">{formatBytes(item.bytes)}{item.facts ? `, ${item.facts.video.codecName} ${item.facts.video.displayWidth} × ${item.facts.video.displayHeight}, ${(item.facts.durationMs / 1000).toFixed(1)} s` : ''}</span></span>
        <span className="flex items-center gap-2 text-xs">
          {item.state === 'reading' && 'reading what it is …'}
          {item.state === 'sending' && `${Math.round((item.sent / item.bytes) * 100)} %${item.rate ? `, ${formatBytes(item.rate)} a second, ${formatLeft(left)}` : ''}`}
          {item.state === 'done' && 'on the shelf'}
          {item.state === 'failed' && <Button onClick={() => retry(item.id)}>Go on</Button>}
          {item.state === 'done' || item.state === 'refused' ? <Button tone="quiet" aria-label={`Dismiss ${item.name}`} onClick={() => dismiss(item.id)}><X className="size-4" aria-hidden /></Button> : <Button tone="quiet" aria-label={`Cancel ${item.name}`} onClick={() => cancel(item.id)}>Cancel</Button>}
        </span>
      </div>
      {!refused && <div className="mt-1.5"><Progress value={item.state === 'done' ? 1 : item.sent / Math.max(1, item.bytes)} label={`Upload of ${item.name}`} /></div>}
      {item.message && <p role="alert" className={`mt-1 text-[0.82rem] ${refused ? 'text-fix' : ''}`}>{item.message}</p>}
    </li>
  )
}

/** An upload whose tab is gone: the file must be chosen again, and goes on where it stopped. */
function RestingRow({ upload, onPick, onGone }: { upload: UnfinishedUpload; onPick: () => void; onGone: () => void }) {
  const discard = async (): Promise<void> => {
    await fetch(`/api/uploads/${upload.id}`, { method: 'DELETE', headers: { 'Tus-Resumable': '1.0.0' } })
    onGone()
  }
  return (
    <li className="flex flex-wrap items-center justify-between gap-2 rounded border border-line bg-sheet px-3 py-2">
      <span><b className="font-medium">{upload.filename}</b> <span className="text-muted">stopped at {Math.round((upload.received / Math.max(1, upload.bytes)) * 100)} % of {formatBytes(upload.bytes)}. Add the same file again and it goes on from there.</span></span>
      <span className="flex gap-2"><Button onClick={onPick}>Choose the file</Button><Button tone="quiet" onClick={() => void discard()}>Discard</Button></span>
    </li>
  )
}
