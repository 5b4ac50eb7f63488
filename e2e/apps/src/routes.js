// What the apps show: three pages of an invented ferry operator, each with a heading, a list and an end.
export const routes = {
  '/': { title: 'Sundrey Isles Ferries', items: ['Aldwick', 'Fennay', 'Holm'] },
  '/fares': { title: 'Fares', items: ['Adults', 'Children', 'Bicycles', 'Cars'] },
  '/islands': { title: 'The five islands', items: ['Great Sundrey', 'Little Sundrey'] },
}
export const paths = Object.keys(routes)

/** Has the page call `show` with the path whenever it changes; window.go changes it. */
export function route(show) {
  window.go = (path) => {
    history.pushState(null, '', path)
    show(path)
  }
  addEventListener('popstate', () => show(location.pathname))
}

/** Calls hydrate, after as many milliseconds as the page says; window.hydrated says that it has. */
export async function begin(hydrate) {
  window.wrong ??= []
  const late = Number(window.late ?? 0)
  if (late) await new Promise((then) => setTimeout(then, late))
  hydrate()
  window.hydrated = true
}
