import type { ReactNode } from 'react'

/** A small table of facts or files. */
export function Table({
  head,
  rows,
  label,
}: {
  head: readonly string[]
  rows: readonly (readonly ReactNode[])[]
  label: string
}) {
  return (
    <table className="w-full text-left text-[0.82rem]" aria-label={label}>
      <thead className="text-xs text-muted">
        <tr>
          {head.map((cell) => (
            <th
              key={cell}
              scope="col"
              className="border-b border-line-strong/40 py-1 pr-4 font-normal"
            >
              {cell}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row, index) => (
          <tr key={index}>
            {row.map((cell, column) => (
              <td key={column} className="border-b border-line py-1 pr-4 tabular-nums">
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
