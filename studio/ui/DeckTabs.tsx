import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react'
import type { ReactNode } from 'react'

interface DeckTabsProps<V extends string> {
  /** The views in their order, each with its label and how it is drawn. */
  readonly views: Readonly<Record<V, { readonly label: string; readonly draw: () => ReactNode }>>
  readonly view: V
  readonly onChange: (view: V) => void
}

/** A deck with several views, one of which is open: only that one is drawn. */
export function DeckTabs<V extends string>({ views, view, onChange }: DeckTabsProps<V>) {
  const names = Object.keys(views) as V[]
  return (
    <TabGroup
      selectedIndex={names.indexOf(view)}
      onChange={(index) => onChange(names[index]!)}
      className="flex h-full flex-col"
    >
      <TabList className="flex shrink-0 gap-1 px-3 pt-1" aria-label="Views of the deck">
        {names.map((name) => (
          <Tab
            key={name}
            className="rounded-t border-b-2 border-transparent px-2 py-0.5 text-[0.82rem] data-selected:border-curtain data-selected:font-semibold"
          >
            {views[name].label}
          </Tab>
        ))}
      </TabList>
      <TabPanels className="min-h-0 flex-1">
        {names.map((name) => (
          <TabPanel key={name} tabIndex={-1} className="h-full">
            {view === name && views[name].draw()}
          </TabPanel>
        ))}
      </TabPanels>
    </TabGroup>
  )
}
