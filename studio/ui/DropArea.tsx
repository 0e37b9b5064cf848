import { useState, type DragEvent, type ReactNode } from 'react'

/** Takes files that are dropped anywhere within. */
export function DropArea({
  label,
  className = 'h-full',
  onFiles,
  children,
}: {
  /** What is said while files are held over it. */
  label: string
  className?: string
  onFiles: (files: FileList) => void
  children: ReactNode
}) {
  const [over, setOver] = useState(false)
  const drop = (event: DragEvent): void => {
    setOver(false)
    if (event.dataTransfer.files.length === 0) return
    event.preventDefault()
    onFiles(event.dataTransfer.files)
  }
  return (
    <div
      className={`relative ${className}`}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes('Files')) return
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={(event) =>
        event.currentTarget.contains(event.relatedTarget as Node) || setOver(false)
      }
      onDrop={drop}
    >
      {children}
      {over && (
        <div className="pointer-events-none absolute inset-0 z-40 grid place-items-center border-4 border-curtain bg-paper/85 p-2 text-center text-xl font-semibold">
          {label}
        </div>
      )}
    </div>
  )
}
