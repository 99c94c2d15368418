import Autocomplete from '@mui/material/Autocomplete'
import TextField from '@mui/material/TextField'
import { useGround } from './data'

/** Chooses an item of the draft's ground by a part of its name or code. */
export function ItemPick({ code, choose }: { code: string; choose: (code: string) => void }) {
  const items = useGround().data?.items ?? []
  return (
    <Autocomplete
      options={items}
      value={items.find((i) => i.code === code) ?? null}
      getOptionLabel={(i) => i.name}
      getOptionKey={(i) => i.code}
      filterOptions={(all, { inputValue }) => {
        const part = inputValue.toLowerCase()
        return all.filter((i) => `${i.code} ${i.name}`.toLowerCase().includes(part))
      }}
      isOptionEqualToValue={(a, b) => a.code === b.code}
      onChange={(_, i) => i && choose(i.code)}
      renderInput={(p) => (
        <TextField
          {...p}
          aria-label="Item"
          placeholder="an item"
          slotProps={{ ...p.slotProps, htmlInput: { ...p.slotProps?.htmlInput, 'aria-label': 'Item' } }}
        />
      )}
    />
  )
}
