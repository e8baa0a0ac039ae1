import { QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter, Route, Routes } from 'react-router'
import './app.css'
import { Refused, base } from './api'
import { Classes } from './pages/Classes'
import { Openings } from './pages/Openings'
import { ResultPage } from './pages/ResultPage'
import { SignIn } from './pages/SignIn'
import { Submissions } from './pages/Submissions'
import { Frame } from './ui/Frame'

const queries: QueryClient = new QueryClient({
  queryCache: new QueryCache({
    onError: (error) => {
      if (error instanceof Refused && error.status === 401) queries.setQueryData(['session'], null)
    },
  }),
  defaultOptions: { queries: { retry: (count, error) => !(error instanceof Refused) && count < 3 } },
})

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <BrowserRouter basename={base}>
        <Routes>
          <Route path="/sign-in" element={<SignIn />} />
          <Route element={<Frame />}>
            <Route path="/" element={<Classes />} />
            <Route path="/classes/:class" element={<Openings />} />
            <Route path="/classes/:class/exercises/:exercise" element={<Submissions />} />
            <Route path="/submissions/:id" element={<ResultPage />} />
            <Route path="*" element={<p className="py-8">There is nothing at this address.</p>} />
          </Route>
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
)
