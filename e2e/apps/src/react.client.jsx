import { hydrateRoot } from 'react-dom/client'
import { App, Document } from './react.jsx'
import { begin } from './routes.js'

const onRecoverableError = (e) => window.wrong.push(String(e.message ?? e))
void begin(() => {
  const app = document.getElementById('app')
  const first = location.pathname
  if (app) hydrateRoot(app, <App first={first} />, { onRecoverableError })
  else hydrateRoot(document, <Document first={first} lines={window.lines} />, { onRecoverableError })
})
