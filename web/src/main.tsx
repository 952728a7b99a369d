import './app/forms'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter } from 'react-router'
import { Refused } from './api/client'
import { App } from './app/App'
import './app.css'
import { showTheme } from './ui/theme'

showTheme()

const cache = new QueryClient({
  defaultOptions: {
    queries: {
      // Live events say when something has changed; asking again on every look would only add load.
      staleTime: Infinity,
      refetchOnWindowFocus: true,
      retry: (count, error) => error instanceof Refused && error.status === 0 && count < 2,
    },
  },
})

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={cache}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
)
