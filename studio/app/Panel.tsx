import type { ReactNode } from 'react'

/** A part of a page with its title; what can be done with it stands at the right. */
export function Panel({
  id,
  title,
  aside,
  children,
}: {
  id: string
  title: ReactNode
  aside?: ReactNode
  children: ReactNode
}) {
  return (
    <section aria-labelledby={id} className="rounded-lg border border-line bg-sheet p-4">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
        <h2 id={id} className="text-base font-semibold">
          {title}
        </h2>
        {aside && <div className="ml-auto flex flex-wrap gap-1">{aside}</div>}
      </div>
      {children}
    </section>
  )
}

/** What stands in a panel that has nothing to show. */
export const Empty = ({ children }: { children: ReactNode }) => (
  <p className="rounded border border-dashed border-line-strong p-4 text-center text-muted">
    {children}
  </p>
)
