import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode, Suspense, lazy } from 'react'
import { createRoot } from 'react-dom/client'
import { Route, RouterProvider, createBrowserRouter, createRoutesFromElements } from 'react-router'
import './app.css'
import { Refused, base } from './api'
import { AssignmentFrame } from './frames/AssignmentFrame'
import { ClassFrame } from './frames/ClassFrame'
import { Classes, Home } from './pages/Classes'
import { Assignments } from './pages/Assignments'
import { SignIn } from './pages/SignIn'
import { Frame } from './ui/Frame'

// named makes a page that is fetched when somebody goes there.
const named = <K extends string>(load: () => Promise<Record<K, React.ComponentType>>, name: K) =>
  lazy(() => load().then((m) => ({ default: m[name] })))

const gates = () => import('./pages/gates')
const [SetUp, OneTimeLink, Join] = [named(gates, 'SetUp'), named(gates, 'OneTimeLink'), named(gates, 'Join')]
const Submissions = named(() => import('./pages/Submissions'), 'Submissions')
const ResultPage = named(() => import('./pages/ResultPage'), 'ResultPage')
const ContactSheet = named(() => import('./pages/ContactSheet'), 'ContactSheet')
const Overview = lazy(() => import('./pages/Overview'))
const Proposals = named(() => import('./pages/Proposals'), 'Proposals')
const SimilarCode = named(() => import('./pages/SimilarCode'), 'SimilarCode')
const PolicyPage = named(() => import('./pages/PolicyPage'), 'PolicyPage')
const Gradebook = named(() => import('./pages/Gradebook'), 'Gradebook')
const Members = named(() => import('./pages/Members'), 'Members')
const Libraries = named(() => import('./pages/Libraries'), 'Libraries')
const ClassAudit = named(() => import('./pages/Audit'), 'ClassAudit')
const Exercises = named(() => import('./pages/Exercises'), 'Exercises')
const Editor = lazy(() => import('./pages/Editor'))
const FromTemplate = named(() => import('./pages/FromTemplate'), 'FromTemplate')
const benches = () => import('./pages/LiveBench')
const ExerciseBench = named(benches, 'ExerciseBench')
const PracticeBench = named(benches, 'PracticeBench')
const ContinuedBench = named(benches, 'ContinuedBench')
const Account = named(() => import('./pages/Account'), 'Account')
const Administration = named(() => import('./pages/Administration'), 'Administration')

const queries = new QueryClient({
  defaultOptions: { queries: { retry: (count, error) => !(error instanceof Refused && error.status) && count < 3 } },
})

const router = createBrowserRouter(
  createRoutesFromElements(
    <Route>
      <Route path="/sign-in" element={<SignIn />} />
      <Route path="/setup" element={<SetUp />} />
      <Route path="/link" element={<OneTimeLink />} />
      <Route path="/join" element={<Join />} />
      <Route element={<Frame />}>
        <Route path="/" element={<Home />} />
        <Route path="/account" element={<Account />} />
        <Route path="/administration" element={<Administration />} />
        <Route path="/exercises" element={<Exercises />} />
        <Route path="/exercises/new" element={<Editor />} />
        <Route path="/exercises/new/template" element={<FromTemplate />} />
        <Route path="/exercises/:name" element={<Editor />} />
        <Route path="/exercises/:name/bench" element={<ExerciseBench />} />
        <Route path="/classes" element={<Classes />} />
        <Route path="/classes/:class" element={<ClassFrame />}>
          <Route index element={<Assignments />} />
          <Route path="gradebook" element={<Gradebook />} />
          <Route path="members" element={<Members />} />
          <Route path="libraries" element={<Libraries />} />
          <Route path="audit" element={<ClassAudit />} />
          <Route path="assignments/:exercise" element={<AssignmentFrame />}>
            <Route index element={<Submissions />} />
            <Route path="look-alikes" element={<ContactSheet />} />
            <Route path="overview" element={<Overview />} />
            <Route path="proposals" element={<Proposals />} />
            <Route path="similar-code" element={<SimilarCode />} />
            <Route path="policy" element={<PolicyPage />} />
          </Route>
        </Route>
        <Route path="/classes/:class/assignments/:exercise/bench" element={<PracticeBench />} />
        <Route path="/submissions/:id" element={<ResultPage />} />
        <Route path="/submissions/:id/bench" element={<ContinuedBench />} />
        <Route path="*" element={<h1 className="py-8 text-xl">There is nothing at this address.</h1>} />
      </Route>
    </Route>,
  ),
  { basename: base || '/' },
)

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Suspense fallback={null}>
        <RouterProvider router={router} />
      </Suspense>
    </QueryClientProvider>
  </StrictMode>,
)
