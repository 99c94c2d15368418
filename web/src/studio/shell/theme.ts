import { createTheme } from '@mui/material/styles'

/** MUI in our own colours; the same roles in a light and a dark scheme. */
export const theme = createTheme({
  cssVariables: true,
  colorSchemes: {
    light: {
      palette: {
        primary: { main: '#1E5B52' },
        secondary: { main: '#A9512B' },
        background: { default: '#F7F5F0', paper: '#FFFEFB' },
        text: { primary: '#20302F', secondary: '#5C6B69' },
        divider: '#DDD8CC',
        error: { main: '#A3312A' },
        info: { main: '#4A5A86' },
        warning: { main: '#B67A12' },
      },
    },
    dark: {
      palette: {
        primary: { main: '#7CC4B6' },
        secondary: { main: '#E79A72' },
        background: { default: '#151B1B', paper: '#1C2424' },
        text: { primary: '#E8E6DF', secondary: '#A3B0AD' },
        divider: '#354140',
        error: { main: '#F0958C' },
        info: { main: '#A9B6DA' },
        warning: { main: '#DDA94E' },
      },
    },
  },
  shape: { borderRadius: 6 },
  typography: {
    fontFamily: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif",
    fontSize: 14,
    button: { textTransform: 'none', fontWeight: 560 },
  },
  transitions: { create: () => 'none' },
  components: {
    MuiButton: { defaultProps: { disableElevation: true, disableRipple: true, variant: 'outlined', size: 'small' } },
    MuiTextField: { defaultProps: { size: 'small' } },
    MuiAutocomplete: { defaultProps: { size: 'small' } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: {
          fontSize: 14,
          background: 'var(--surface)',
          maxWidth: '100%',
          '&:not(:hover):not(.Mui-focused):not(.Mui-error) .MuiOutlinedInput-notchedOutline': {
            borderColor: 'var(--line)',
          },
        },
        input: { '&&': { paddingTop: 6, paddingBottom: 6, paddingLeft: 9, height: '1.43em' } },
      },
    },
    MuiNativeSelect: { styleOverrides: { select: { '&&': { paddingRight: 28, minWidth: 0 } } } },
    MuiCheckbox: { defaultProps: { disableRipple: true }, styleOverrides: { root: { padding: 2 } } },
    MuiTabs: {
      styleOverrides: {
        root: { minHeight: 0, overflow: 'visible' },
        list: { flexWrap: 'wrap' },
        indicator: { display: 'none' }, // tabs stand in several lines: each marks itself
      },
    },
    MuiTab: {
      defaultProps: { disableRipple: true },
      styleOverrides: {
        root: {
          textTransform: 'none',
          fontSize: 14.5,
          minWidth: 0,
          minHeight: 0,
          padding: '6px 10px',
          borderBottom: '3px solid transparent',
          '&.Mui-selected': { color: 'var(--ink)', fontWeight: 650, borderBottomColor: 'var(--primary)' },
        },
      },
    },
    MuiTooltip: { styleOverrides: { tooltip: { fontSize: 13, maxWidth: 380 } } },
    MuiPaper: { defaultProps: { elevation: 0, variant: 'outlined' } },
  },
})
