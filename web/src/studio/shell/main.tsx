import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import { ThemeProvider } from '@mui/material/styles'
import { QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter } from 'react-router'
import { Trouble } from '../../shared/client'
import '../../shared/base.css'
import { App } from './App'
import { Asking } from './Asking'
import './studio.css'
import { theme } from './theme'

const queries = new Asking({
  defaultOptions: {
    queries: {
      retry: (count, error) => !(error instanceof Trouble && error.status > 0 && error.status < 500) && count < 30,
      retryDelay: 1500,
      refetchOnWindowFocus: false,
    },
  },
})

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <ThemeProvider theme={theme}>
      <QueryClientProvider client={queries}>
        {/* At once, not when there is time for it: else what is clicked next is still the page before, and acts on its world. */}
        <BrowserRouter useTransitions={false}>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </ThemeProvider>
  </StrictMode>,
)
