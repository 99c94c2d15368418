import Checkbox from '@mui/material/Checkbox'
import NativeSelect from '@mui/material/NativeSelect'
import OutlinedInput from '@mui/material/OutlinedInput'
import type { ChangeEventHandler, ComponentProps, CSSProperties, ReactNode } from 'react'

/** The component library's small controls, each with what we always want of it. They are named by a label around them, one
 * that points at their id, or an `aria-label`. */

/** A choice among a few; the platform's own list, which works by keyboard, by touch and when zoomed. */
export function Pick({
  style,
  className,
  children,
  ...select
}: ComponentProps<'select'> & { children: ReactNode; style?: CSSProperties }) {
  const { value, onChange, disabled, ...rest } = select
  return (
    <NativeSelect
      className={className}
      style={style}
      value={value}
      onChange={onChange}
      disabled={disabled}
      input={<OutlinedInput size="small" />}
      inputProps={rest}
    >
      {children}
    </NativeSelect>
  )
}

/** A line to write in. */
export function Entry({ style, className, ...input }: Omit<ComponentProps<'input'>, 'color' | 'size'>) {
  const { value, onChange, disabled, autoFocus, ref, type, ...rest } = input
  return (
    <OutlinedInput
      size="small"
      className={className}
      style={style}
      value={value}
      onChange={onChange as ChangeEventHandler<HTMLInputElement | HTMLTextAreaElement>}
      disabled={disabled}
      autoFocus={autoFocus}
      inputRef={ref}
      type={type}
      slotProps={{ input: rest }}
    />
  )
}

/** Something that is so or is not. */
export function Tick({ checked, onChange, disabled, ...rest }: Omit<ComponentProps<'input'>, 'color' | 'size'>) {
  return <Checkbox size="small" checked={checked} onChange={onChange} disabled={disabled} slotProps={{ input: rest }} />
}

/** The head of a column of buttons: read out, not shown. */
export function ActHead() {
  return (
    <th>
      <span className="sr">Act</span>
    </th>
  )
}
