import Tab from '@mui/material/Tab'
import Tabs from '@mui/material/Tabs'
import type { ReactNode } from 'react'

/** Pages or lists of which one is shown; all of them stay in sight, in as many lines as they need. */
export function TabRow({
  label,
  tabs,
  value,
  choose,
  children,
}: {
  label: string
  tabs: [id: string, title: string, findings?: number][]
  value: string
  choose: (id: string) => void
  children?: ReactNode
}) {
  return (
    <div className="tabs">
      {tabs.length > 0 && (
        <Tabs
          value={tabs.some(([id]) => id === value) ? value : false}
          onChange={(_, id: string) => choose(id)}
          aria-label={label}
        >
          {tabs.map(([id, title, findings]) => (
            <Tab
              key={id}
              value={id}
              label={
                <span>
                  {title}
                  {!!findings && (
                    <span className="mark doubt">
                      {' '}
                      {findings}
                      <span className="sr"> findings</span>
                    </span>
                  )}
                </span>
              }
            />
          ))}
        </Tabs>
      )}
      {children}
    </div>
  )
}
