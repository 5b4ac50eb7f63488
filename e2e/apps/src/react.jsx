import { useEffect, useState } from 'react'
import { paths, route, routes } from './routes.js'

export function App({ first }) {
  const [path, show] = useState(first)
  const [beat, setBeat] = useState(0)
  useEffect(() => route(show), [])
  useEffect(() => {
    const timer = setInterval(() => setBeat((n) => n + 1), 100)
    return () => clearInterval(timer)
  }, [])
  const { title, items } = routes[path]
  return (
    <div id="shell">
      <header>
        {paths.map((p) => (
          <a key={p} href={p}>
            {p}
          </a>
        ))}
        <output>{beat}</output>
      </header>
      <main key={path}>
        <h1>{title}</h1>
        <p className="lead">Ferries between the islands, every day.</p>
        <ul>
          {items.map((i) => (
            <li key={i}>{i}</li>
          ))}
        </ul>
        <p id="end">That is all.</p>
      </main>
    </div>
  )
}

/** The whole document, for an app that hydrates that; lines are scripts in its head. */
export function Document({ first, lines }) {
  return (
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <title>An app</title>
        {lines.map((line, i) => (
          <script key={i} dangerouslySetInnerHTML={{ __html: line }} />
        ))}
      </head>
      <body>
        <App first={first} />
        <script type="module" src="/react.js" />
      </body>
    </html>
  )
}
