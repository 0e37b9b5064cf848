import './zodWithoutJit'
import { QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { queries } from './api/queries'
import { AccessView } from './app/AccessView'
import { ProjectsView } from './app/ProjectsView'
import { ProjectView } from './app/ProjectView'
import { Problem, Shell } from './shell/Shell'
import { SignInDialog } from './app/SignInDialog'
import { SpaceView } from './app/SpaceView'
import { WorkView } from './app/WorkView'
import { WorkbenchView } from './app/WorkbenchView'
import { SourceView } from './shelf/SourceView'
import { ShelfView } from './shelf/ShelfView'
import './styles.css'

function Nowhere() {
  return (
    <Shell crumbs={[{ label: 'Nothing here' }]}>
      <Problem message="There is nothing at this address. The link may be old." />
    </Shell>
  )
}

/** A bug must not leave a blank page: it says what is safe, and how to go on. */
function Fault() {
  return (
    <Shell crumbs={[{ label: 'Something went wrong' }]}>
      <Problem
        message="Something unexpected went wrong in this view. What was saved is safe. Reload the page; if it happens again, report what you did last."
        onRetry={() => location.reload()}
      />
    </Shell>
  )
}

const router = createBrowserRouter([
  {
    errorElement: <Fault />,
    children: [
      { path: '/', element: <ProjectsView /> },
      { path: '/projects/:projectId', element: <ProjectView /> },
      { path: '/projects/:projectId/shelf', element: <ShelfView /> },
      { path: '/projects/:projectId/sources/:sourceId', element: <SourceView /> },
      { path: '/backdrops/:backdropId/:readout?', element: <WorkbenchView /> },
      { path: '/space', element: <SpaceView /> },
      { path: '/access', element: <AccessView /> },
      { path: '/work', element: <WorkView /> },
      { path: '*', element: <Nowhere /> },
    ],
  },
])

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
      <SignInDialog />
    </QueryClientProvider>
  </StrictMode>,
)
