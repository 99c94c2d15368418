import Button from '@mui/material/Button'
import ListItemText from '@mui/material/ListItemText'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { useState } from 'react'
import type { Shape } from '../../shared/client'
import type { Edit } from './data'

type Add = Shape['Add']

/** Adds a part: at once, or after one of several kinds was chosen. */
export function Adding({ add, put }: { add: Add; put: (edits: Edit[], told: string) => void }) {
  const [from, setFrom] = useState<HTMLElement | null>(null)
  const make = (value: string | null) => {
    setFrom(null)
    put([{ op: 'add', path: add.path, value }], add.told)
  }
  if (add.options.length === 0) return <Button onClick={() => make(add.value)}>{add.says}</Button>
  return (
    <>
      <Button aria-haspopup="menu" aria-expanded={from ? true : undefined} onClick={(e) => setFrom(e.currentTarget)}>
        {add.says}
      </Button>
      <Menu
        anchorEl={from}
        open={from !== null}
        onClose={() => setFrom(null)}
        slotProps={{ list: { 'aria-label': add.says }, paper: { style: { maxHeight: 420 } } }}
      >
        {add.options.map((option) => (
          <MenuItem key={option.value ?? ''} onClick={() => make(option.value)}>
            <ListItemText secondary={option.note || undefined}>{option.label}</ListItemText>
          </MenuItem>
        ))}
      </Menu>
    </>
  )
}
