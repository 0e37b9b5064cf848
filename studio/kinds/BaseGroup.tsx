import { useState } from 'react'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { Button, Group } from '../ui/controls'
import { ChangeBase } from './ChangeBase'
import { KIND_WORDS } from './kindWords'

/** Which base the backdrop has, and the way to another one. */
export function BaseGroup({
  document,
  projectId,
}: {
  document: BackdropDocument
  projectId: string
}) {
  const [asking, setAsking] = useState(false)
  return (
    <Group title="Base" aside={KIND_WORDS[document.base.kind].label}>
      <Button onClick={() => setAsking(true)}>Change the base …</Button>
      <p className="text-xs text-muted">
        Copy, scrim, fit, behaviour and weight stay. Undo brings the former base back.
      </p>
      {asking && (
        <ChangeBase document={document} projectId={projectId} onClose={() => setAsking(false)} />
      )}
    </Group>
  )
}
