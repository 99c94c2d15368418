import Button from '@mui/material/Button'
import ListItemText from '@mui/material/ListItemText'
import MenuItem from '@mui/material/MenuItem'
import MenuList from '@mui/material/MenuList'
import Popover from '@mui/material/Popover'
import { useRef, useState } from 'react'
import type { Shape } from '../../shared/client'
import { Entry } from './controls'
import type { Edit } from './data'

type Add = Shape['Add']
/** Longer lists are searched. */
const MANY = 4

/** Adds a part: at once, or after one of several kinds was chosen; of many, by typing a part of what it says. */
export function Adding({ add, put }: { add: Add; put: (edits: Edit[], told: string) => void }) {
  const [from, setFrom] = useState<HTMLElement | null>(null)
  const [find, setFind] = useState('')
  const list = useRef<HTMLUListElement>(null)
  const close = () => {
    setFrom(null)
    setFind('')
  }
  const make = (value: string | null) => {
    close()
    put([{ op: 'add', path: add.path, value }], add.told)
  }
  if (add.options.length === 0) return <Button onClick={() => make(add.value)}>{add.says}</Button>
  const many = add.options.length > MANY
  const words = find.toLowerCase().split(/\s+/).filter(Boolean)
  const found = add.options.filter((o) => words.every((w) => `${o.label} ${o.note}`.toLowerCase().includes(w)))
  return (
    <>
      <Button aria-haspopup="menu" aria-expanded={from ? true : undefined} onClick={(e) => setFrom(e.currentTarget)}>
        {add.says}
      </Button>
      <Popover
        anchorEl={from}
        open={from !== null}
        onClose={close}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { style: { maxHeight: 460, minWidth: 280, maxWidth: 460 } } }}
      >
        {many && (
          <form
            style={{ padding: '10px 16px 0' }}
            onSubmit={(e) => {
              e.preventDefault()
              if (found[0]) make(found[0].value)
            }}
          >
            <Entry
              autoFocus
              style={{ width: '100%' }}
              aria-label="Find"
              placeholder="type a part of it; Enter takes the first"
              value={find}
              onChange={(e) => setFind(e.target.value)}
              onKeyDown={(e) => {
                if (e.key !== 'ArrowDown') return
                e.preventDefault()
                list.current?.querySelector<HTMLElement>('[role=menuitem]')?.focus()
              }}
            />
          </form>
        )}
        <MenuList ref={list} autoFocusItem={from !== null && !many} aria-label={add.says}>
          {found.map((option) => (
            <MenuItem key={option.value ?? ''} onClick={() => make(option.value)} style={{ whiteSpace: 'normal' }}>
              <ListItemText secondary={option.note || undefined}>{option.label}</ListItemText>
            </MenuItem>
          ))}
        </MenuList>
        {found.length === 0 && <p className="empty">Nothing of that name can be added here.</p>}
      </Popover>
    </>
  )
}
