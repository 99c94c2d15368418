import Autocomplete from '@mui/material/Autocomplete'
import TextField from '@mui/material/TextField'

/** Says pieces by their serial numbers: those of a list, or, without one, whatever is typed, scanned or pasted. */
export function SerialsPick({
  label,
  among,
  value,
  set,
  of,
}: {
  label: string
  among?: readonly string[]
  value: readonly string[]
  set: (numbers: string[]) => void
  of: number
}) {
  return (
    <Autocomplete
      multiple
      freeSolo={!among}
      filterSelectedOptions
      disableCloseOnSelect={value.length + 1 < of}
      limitTags={6}
      size="small"
      options={among ?? []}
      value={[...value]}
      onChange={(_, chosen) =>
        set([
          ...new Set(
            chosen
              .flatMap((c) => c.split(/[\n,;\t]+/))
              .map((c) => c.trim())
              .filter(Boolean),
          ),
        ])
      }
      renderInput={(p) => (
        <TextField
          {...p}
          placeholder={value.length < of ? `${value.length} of ${of.toLocaleString('en')}` : ''}
          slotProps={{ ...p.slotProps, htmlInput: { ...p.slotProps?.htmlInput, 'aria-label': label } }}
        />
      )}
    />
  )
}
