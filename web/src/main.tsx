import './app/forms'
import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { RouterProvider } from 'react-router/dom'
import { Refused } from './api/client'
import { keys } from './api/cache'
import { router } from './app/router'
import './app.css'
import { showTheme } from './ui/theme'

showTheme()

// Who is not signed in (any more) is asked for the password, wherever it shows.
const ask = (error: unknown) => {
  if (error instanceof Refused && error.status === 401) void cache.invalidateQueries({ queryKey: keys.session })
}

const cache: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: ask }),
  mutationCache: new MutationCache({ onError: ask }),
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
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
)
