import './zodWithoutJit'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { ProjectsView } from './app/ProjectsView'
import { ProjectView } from './app/ProjectView'
import { Problem, Shell } from './app/Shell'
import { WorkbenchView } from './app/WorkbenchView'
import { ShelfView } from './shelf/ShelfView'
import './styles.css'

function Nowhere() {
  return <Shell crumbs={[{ label: 'Nothing here' }]}><Problem message="There is nothing at this address. The link may be old." /></Shell>
}

const router = createBrowserRouter([
  { path: '/', element: <ProjectsView /> },
  { path: '/projects/:projectId', element: <ProjectView /> },
  { path: '/projects/:projectId/shelf', element: <ShelfView /> },
  { path: '/backdrops/:backdropId/:readout?', element: <WorkbenchView /> },
  { path: '*', element: <Nowhere /> },
])

createRoot(document.getElementById('root')!).render(<StrictMode><RouterProvider router={router} /></StrictMode>)
