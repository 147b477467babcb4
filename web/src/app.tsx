import { Button, Loader } from '@mantine/core'
import { lazy, Suspense } from 'react'
import { BrowserRouter, Navigate, Outlet, Route, Routes, useLocation } from 'react-router'
import { loadBench } from './bench/load.ts'
import { sentenceOf, useSessionQuery } from './store/api.ts'
import partsCss from './parts/parts.module.css'

const SignIn = lazy(() => import('./sign-in/SignIn.tsx').then((m) => ({ default: m.SignIn })))
const Desk = lazy(() => import('./desk/Desk.tsx').then((m) => ({ default: m.Desk })))
const Bench = lazy(() => loadBench().then((m) => ({ default: m.Bench })))
const Renders = lazy(() => import('./renders/Renders.tsx').then((m) => ({ default: m.Renders })))

const waiting = (
  <div className={partsCss.empty} style={{ height: '100%' }}>
    <Loader size="sm" aria-label="Loading" />
  </div>
)

/** Pages for those who are signed in; others are led to sign in and come back. */
function SignedIn() {
  const { data, isLoading, error, refetch } = useSessionQuery()
  const here = useLocation()
  if (isLoading) return waiting
  if (error) {
    return (
      <div className={partsCss.empty} role="alert" style={{ height: '100%' }}>
        <div>
          <p>{sentenceOf(error)}</p>
          <Button onClick={() => void refetch()}>Try again</Button>
        </div>
      </div>
    )
  }
  if (!data) return <Navigate to="/sign-in" state={{ from: here.pathname }} replace />
  return <Outlet />
}

function Nowhere() {
  return (
    <div className={partsCss.empty} style={{ height: '100%' }}>
      <div>
        <h1>There is no page here</h1>
        <p>
          <a href="/">Back to the desk</a>
        </p>
      </div>
    </div>
  )
}

export function App() {
  return (
    <BrowserRouter>
      <Suspense fallback={waiting}>
        <Routes>
          <Route path="/sign-in" element={<SignIn />} />
          <Route element={<SignedIn />}>
            <Route path="/" element={<Desk />} />
            <Route path="/bench/:id" element={<Bench />} />
            <Route path="/renders" element={<Renders />} />
          </Route>
          <Route path="*" element={<Nowhere />} />
        </Routes>
      </Suspense>
    </BrowserRouter>
  )
}
