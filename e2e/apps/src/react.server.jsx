import { renderToString } from 'react-dom/server'
import { App, Document } from './react.jsx'

export const render = (path) => renderToString(<App first={path} />)
export const whole = (path, lines) =>
  '<!DOCTYPE html>' + renderToString(<Document first={path} lines={lines} />)
